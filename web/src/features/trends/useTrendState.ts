import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { parseState, stateParams, type TrendState, type TrendWindow } from './state';

export interface TrendActions {
  change: (change: Change) => void;
  setWindow: (window: TrendWindow) => void;
  undo: () => void;
  canUndo: boolean;
  toggleTag: (uid: string) => void;
  toggleHidden: (uid: string) => void;
  /** Shows the view of a link. */
  open: (view: string) => void;
}

/** What becomes different, or what does by what is there at that moment. */
type Change = Partial<TrendState> | ((now: TrendState) => Partial<TrendState>);

const MOST_UNDO = 50;

/** The state in the address, and what changes it. `defaults` are the tags shown before any were chosen. */
export function useTrendState(defaults: readonly string[]): { state: TrendState; actions: TrendActions } {
  const [params, setParams] = useSearchParams();
  const state = useMemo(() => parseState(params), [params]);
  const [past, setPast] = useState<readonly TrendWindow[]>([]);

  // Two changes may come before the page is drawn anew: the second one builds on the first.
  const latest = useRef(params);
  useEffect(() => {
    latest.current = params;
  }, [params]);
  const change = useCallback(
    (wanted: Change) => {
      const now = parseState(latest.current);
      const more = typeof wanted === 'function' ? wanted(now) : wanted;
      latest.current = stateParams({ ...now, ...more });
      setParams(latest.current, { replace: true, flushSync: true });
    },
    [setParams],
  );
  const setWindow = useCallback(
    (window: TrendWindow) => {
      setPast((before) => [...before.slice(-MOST_UNDO), state.window]);
      change({ window });
    },
    [change, state.window],
  );
  const undo = useCallback(() => {
    const window = past.at(-1);
    if (window === undefined) return;
    setPast(past.slice(0, -1));
    change({ window });
  }, [change, past]);
  const toggleTag = useCallback(
    (uid: string) => change({ tags: toggled(state.tags ?? [...defaults], uid) }),
    [change, state.tags, defaults],
  );
  const toggleHidden = useCallback(
    (uid: string) => change({ hidden: toggled(state.hidden, uid) }),
    [change, state.hidden],
  );
  const open = useCallback((view: string) => setParams(new URLSearchParams(view)), [setParams]);
  const actions = useMemo(
    () => ({ change, setWindow, undo, canUndo: past.length > 0, toggleTag, toggleHidden, open }),
    [change, setWindow, undo, past.length, toggleTag, toggleHidden, open],
  );
  return { state, actions };
}

function toggled(list: readonly string[], item: string): string[] {
  return list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
}
