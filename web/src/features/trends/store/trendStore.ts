/** What one trend on a page shows and where its cursor is. Every trend has a store of its own, so that several stand
 * side by side; what keeps it (an address, a sheet, a tile) follows its changes. */
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Span } from '../../../domain/time';
import { fixedWindow, goesOn, resumed, type WindowChoice } from '../../../domain/windows';
import type { Looks } from '../model/looks';
import { stateParams, type TrendState } from '../model/state';

export interface TrendValues {
  state: TrendState;
  /** Windows that were left, oldest first; with the looks of their pens where scales were changed with the window. */
  past: readonly Left[];
  /** Where the cursor is drawn, µs, and where the pointer is, as last heard. */
  cursorUs: number | null;
  pointerUs: number | null;
  /** The cursor that stands where one clicks next. */
  placing: 'A' | 'B' | null;
  /** How often another trend took this one's place, by a sheet that was opened. */
  opened: number;
}

interface Left {
  window: WindowChoice;
  looks?: Looks;
}

export interface TrendActions {
  change: (change: Change) => void;
  setWindow: (window: WindowChoice, looks?: Looks) => void;
  /** A step of a movement by hand, such as a turn of the wheel: the whole of it is taken back at once. */
  moveWindow: (to: (now: WindowChoice) => WindowChoice) => void;
  undo: () => void;
  /** Stands still at what is shown, or goes on with the clock again. */
  toggleLive: (shown: Span) => void;
  /** A pen put on or taken off; `shown` are those that are there before any were chosen. */
  toggleTag: (uid: string, shown: readonly string[]) => void;
  toggleHidden: (uid: string) => void;
  /** Shows another trend in the place of this one. */
  open: (state: TrendState) => void;
  /** What keeps the trend says what it is: nothing is told back. */
  replace: (state: TrendState) => void;
  setCursor: (atUs: number | null) => void;
  place: (name: TrendValues['placing']) => void;
}

/** What becomes different, or what does by what is there at that moment. */
export type Change = Partial<TrendState> | ((now: TrendState) => Partial<TrendState>);

export interface TrendStore {
  values: StoreApi<TrendValues>;
  actions: TrendActions;
}

const MOST_UNDO = 50;
/** Moves of one hand that follow each other within this time are taken back together. */
const ONE_MOVE_MS = 600;

export interface Timing {
  nowMs: () => number;
  /** Calls once with the next picture. */
  nextFrame: (work: () => void) => void;
}

const BROWSER: Timing = {
  nowMs: () => performance.now(),
  nextFrame: (work) => void requestAnimationFrame(work),
};

export function createTrendStore(state: TrendState, timing: Timing = BROWSER): TrendStore {
  const values = createStore<TrendValues>(() => ({
    state,
    past: [],
    cursorUs: null,
    pointerUs: null,
    placing: null,
    opened: 0,
  }));
  const now = (): TrendState => values.getState().state;
  let movedMs = -Infinity;
  /** The window that was left by standing still. */
  let left: WindowChoice | null = null;
  let isFrameAsked = false;

  const change = (wanted: Change): void => {
    const before = now();
    const more = typeof wanted === 'function' ? wanted(before) : wanted;
    values.setState({ state: { ...before, ...more } });
  };
  const remember = (looks?: Looks): void => {
    const { past } = values.getState();
    const { window } = now();
    const before = looks === undefined ? { window } : { window, looks };
    values.setState({ past: [...past.slice(-MOST_UNDO), before] });
  };
  const setWindow = (window: WindowChoice, looks?: Looks): void => {
    remember(looks && now().looks);
    change(looks === undefined ? { window } : { window, looks });
  };
  const actions: TrendActions = {
    change,
    setWindow,
    moveWindow: (to) => {
      if (timing.nowMs() - movedMs > ONE_MOVE_MS) remember();
      movedMs = timing.nowMs();
      change((before) => ({ window: to(before.window) }));
    },
    undo: () => {
      const { past } = values.getState();
      const before = past.at(-1);
      if (before === undefined) return;
      movedMs = -Infinity;
      values.setState({ past: past.slice(0, -1) });
      change(before);
    },
    toggleLive: (shown) => {
      const { window } = now();
      if (goesOn(window)) {
        left = window;
        setWindow(fixedWindow(shown.startUs, shown.endUs));
        return;
      }
      setWindow(resumed(left, shown));
    },
    toggleTag: (uid, shown) => change((before) => ({ tags: toggled(before.tags ?? shown, uid) })),
    toggleHidden: (uid) => change((before) => ({ hidden: toggled(before.hidden, uid) })),
    open: (other) => values.setState((before) => ({ state: other, opened: before.opened + 1 })),
    replace: (other) => {
      if (!sameTrend(other, now())) values.setState({ state: other });
    },
    place: (placing) => values.setState({ placing }),
    setCursor: (atUs) => {
      values.setState({ pointerUs: atUs });
      // A pointer may tell of itself several times a frame: once is enough to draw.
      if (isFrameAsked) return;
      isFrameAsked = true;
      timing.nextFrame(() => {
        isFrameAsked = false;
        values.setState({ cursorUs: values.getState().pointerUs });
      });
    },
  };
  return { values, actions };
}

export function sameTrend(one: TrendState, two: TrendState): boolean {
  return one === two || stateParams(one).toString() === stateParams(two).toString();
}

function toggled(list: readonly string[], item: string): string[] {
  return list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
}
