/** What the time rail shows: the page that is open says it, the shell draws it. */
import { useEffect } from 'react';
import { createStore } from 'zustand/vanilla';
import type { Span } from '../../domain/time';
import type { WindowChoice } from '../../domain/windows';

export interface CoverageBar {
  id: string;
  colour: string;
  /** Where there is usable data. */
  covered: readonly Span[];
}

/** A stretch without data, and why. */
export interface RailGap extends Span {
  text: string;
}

export interface RailContents {
  /** Null: all of history. */
  window: WindowChoice | null;
  /** Where it lies now; null: not known yet, or all of history. */
  span: Span | null;
  bars: readonly CoverageBar[];
  gaps: readonly RailGap[];
  /** A window that was chosen; null: all of history, where the page can show that. */
  onWindow: (window: WindowChoice | null) => void;
  /** A step of a movement by hand. */
  onMove: (span: Span) => void;
  /** Stands still, or goes on with the clock. */
  onLive: () => void;
  /** Whether the page can show all of history. */
  hasAll: boolean;
  /** Further ways to a window. */
  more: readonly { name: string; run: () => void }[];
}

export interface RailValues {
  contents: RailContents | null;
  /** The window of the page that is open, or was last: it goes along to the next one. */
  window: WindowChoice | null;
}

export const railStore = createStore<RailValues>(() => ({ contents: null, window: null }));

/** Shows this on the rail as long as the page is open; null: the page has no rail. `isBehind`: its window follows that
 * of the page, which tells the store of it by itself. */
export function useRailContents(contents: RailContents | null, isBehind = false): void {
  useEffect(() => {
    railStore.setState(contents === null || isBehind ? { contents } : { contents, window: contents.window });
  }, [contents, isBehind]);
  useEffect(() => () => railStore.setState({ contents: null }), []);
}
