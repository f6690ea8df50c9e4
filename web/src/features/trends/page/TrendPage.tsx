/** The page of trends: its trend is kept in the address. */
import { useCallback, useMemo, type ReactElement } from 'react';
import { useOutletContext } from 'react-router';
import { useAddressWriter } from '../../../platform/useAddress';
import { parseState, stateParams, type TrendState } from '../model/state';
import { Trend } from './Trend';
import { useSheetLink } from './useSheetLink';
import type { ShellRequest } from './useAddedTag';

/** What is shown where the address says nothing yet. */
const NOTHING = new URLSearchParams();

export function TrendPage(): ReactElement | null {
  const request = useOutletContext<ShellRequest>();
  const [address, write] = useAddressWriter();
  const meant = useSheetLink(address);
  const state = useMemo(() => parseState(meant ?? NOTHING), [meant]);
  const onChange = useCallback(
    (next: TrendState, how: 'changed' | 'opened') => write(stateParams(next), how === 'opened'),
    [write],
  );
  if (meant === null) return null;
  return <Trend state={state} onChange={onChange} request={request} permissions={state.allow} hasRail />;
}
