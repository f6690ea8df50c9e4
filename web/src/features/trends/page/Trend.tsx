/** A trend: pens over a window, with what can be done with them. It can stand anywhere: what keeps it (an address, a
 * sheet, a tile) gives its state and hears of changes. */
import { memo, useEffect, useState, type ReactElement } from 'react';
import type { Allowed, TrendState } from '../model/state';
import { TrendContext } from '../store/context';
import { createTrendStore } from '../store/trendStore';
import { Sheet } from './Sheet';
import type { ShellRequest } from './useAddedTag';

export interface TrendProps {
  /** What it shows: another object takes the place of what is there. */
  state: TrendState;
  /** What it shows now; `opened`: another sheet took its place. */
  onChange: (state: TrendState, how: 'changed' | 'opened') => void;
  /** What may be done beside looking; null: everything. */
  permissions: readonly Allowed[] | null;
  /** Whether the shell's time rail shows its window. */
  hasRail: boolean;
  /** What the shell asks of it. */
  request: ShellRequest;
  /** One of several on a page: what it is called there. There is no room for the pens beside the plot, they lie below
   * it. */
  name?: string;
}

export const Trend = memo(function Trend({
  state,
  onChange,
  permissions,
  hasRail,
  request,
  name,
}: TrendProps): ReactElement {
  const [store] = useState(() => createTrendStore(state));
  useEffect(() => store.actions.replace(state), [store, state]);
  useEffect(
    () =>
      store.values.subscribe((now, before) => {
        if (now.state !== before.state)
          onChange(now.state, now.opened === before.opened ? 'changed' : 'opened');
      }),
    [store, onChange],
  );
  return (
    <TrendContext value={store}>
      <Sheet permissions={permissions} hasRail={hasRail} request={request} name={name} />
    </TrendContext>
  );
});
