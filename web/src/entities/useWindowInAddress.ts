/** The window of a page that keeps it in the address, shown on the shell's time rail. */
import { useCallback, useMemo, useRef } from 'react';
import type { Span } from '../domain/time';
import {
  fixedWindow,
  goesOn,
  lastOf,
  listKey,
  listSpan,
  parseWindow,
  resumed,
  withWindow,
  type WindowChoice,
} from '../domain/windows';
import type { Address } from '../platform/useAddress';
import { useRailContents, type RailContents } from '../ui/timerail';
import { useServerNow } from './clock';
import { useSpan, type ListOf } from './windows';

export interface WindowInAddress {
  /** Null: all of history. */
  window: WindowChoice | null;
  /** Where it lies; null: not known yet, or all of history. */
  span: Span | null;
  /** What a list of what lies in the window asks for. */
  listed: ListOf;
  error: Error | null;
  setWindow: (window: WindowChoice | null) => void;
}

const NONE: never[] = [];

/** `usual`: the window where the address says none; null: all of history, which such a page can show. */
export function useWindowInAddress([params, write]: Address, usual: WindowChoice | null): WindowInAddress {
  const window = useMemo(() => parseWindow(params) ?? usual, [params, usual]);
  const nowUs = useServerNow(window !== null && goesOn(window));
  const { span: found, error } = useSpan(window ?? lastOf(1), nowUs);
  const span = window === null ? null : found;
  const setWindow = useCallback(
    (next: WindowChoice | null) => write(withWindow(params, next)),
    [params, write],
  );
  /** The window that was left by standing still. */
  const left = useRef<WindowChoice | null>(null);
  useRailContents(
    useMemo((): RailContents => {
      const live = (): void => {
        if (window === null || span === null) return;
        if (!goesOn(window)) setWindow(resumed(left.current, span));
        else {
          left.current = window;
          setWindow(fixedWindow(span.startUs, span.endUs));
        }
      };
      return {
        window,
        span,
        bars: NONE,
        gaps: NONE,
        more: NONE,
        hasAll: usual === null,
        onWindow: setWindow,
        onMove: (to) => setWindow(fixedWindow(to.startUs, to.endUs)),
        onLive: live,
      };
    }, [window, span, usual, setWindow]),
  );
  const isKnown = window === null || span !== null;
  const listed = { key: listKey(window, span), span: listSpan(window, span), isKnown };
  return { window, span, listed, error, setWindow };
}
