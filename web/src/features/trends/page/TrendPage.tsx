/** The page of trends: its trend is kept in the address. */
import { useCallback, useMemo, type ReactElement } from 'react';
import { useOutletContext } from 'react-router';
import { useAddressWriter } from '../../../platform/useAddress';
import { parseState, stateParams, type TrendState } from '../model/state';
import { Trend } from './Trend';
import { useSheetLink } from './useSheetLink';
import type { ShellRequest } from './useAddedTag';

export function TrendPage(): ReactElement | null {
  const request = useOutletContext<ShellRequest>();
  const [address, write] = useAddressWriter();
  const isThere = useSheetLink(address);
  const state = useMemo(() => parseState(address), [address]);
  const onChange = useCallback(
    (next: TrendState, how: 'changed' | 'opened') => write(stateParams(next), how === 'opened'),
    [write],
  );
  if (!isThere) return null;
  return <Trend state={state} onChange={onChange} request={request} permissions={state.allow} hasRail />;
}
