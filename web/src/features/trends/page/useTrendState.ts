import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useAddress } from './useAddress';
import { parseState, stateParams, type TrendState, type TrendWindow } from '../model/state';

export interface TrendActions {
  change: (change: Change) => void;
  setWindow: (window: TrendWindow) => void;
  /** A step of a movement by hand, such as a turn of the wheel: the whole of it is taken back at once. */
  moveWindow: (to: (now: TrendWindow) => TrendWindow) => void;
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
/** Moves of one hand that follow each other within this time are taken back together. */
const ONE_MOVE_MS = 600;

/** The state in the address, and what changes it. `defaults` are the tags shown before any were chosen. */
export function useTrendState(defaults: readonly string[]): { state: TrendState; actions: TrendActions } {
  const [params, write] = useAddress();
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
      write(latest.current);
    },
    [write],
  );
  const remember = useCallback(() => {
    const before = parseState(latest.current).window;
    setPast((all) => [...all.slice(-MOST_UNDO), before]);
  }, []);
  const setWindow = useCallback(
    (window: TrendWindow) => {
      remember();
      change({ window });
    },
    [change, remember],
  );
  const movedMs = useRef(-Infinity);
  const moveWindow = useCallback(
    (to: (now: TrendWindow) => TrendWindow) => {
      if (performance.now() - movedMs.current > ONE_MOVE_MS) remember();
      movedMs.current = performance.now();
      change((now) => ({ window: to(now.window) }));
    },
    [change, remember],
  );
  const undo = useCallback(() => {
    const window = past.at(-1);
    if (window === undefined) return;
    movedMs.current = -Infinity;
    setPast(past.slice(0, -1));
    change({ window });
  }, [change, past]);
  const toggleTag = useCallback(
    (uid: string) => change((now) => ({ tags: toggled(now.tags ?? [...defaults], uid) })),
    [change, defaults],
  );
  const toggleHidden = useCallback(
    (uid: string) => change((now) => ({ hidden: toggled(now.hidden, uid) })),
    [change],
  );
  const open = useCallback((view: string) => write(new URLSearchParams(view), true), [write]);
  const actions = useMemo(
    () => ({ change, setWindow, moveWindow, undo, canUndo: past.length > 0, toggleTag, toggleHidden, open }),
    [change, setWindow, moveWindow, undo, past.length, toggleTag, toggleHidden, open],
  );
  return { state, actions };
}

function toggled(list: readonly string[], item: string): string[] {
  return list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
}
