/** Where a trend's window lies by the server's clock. */
import { useMemo, useState } from 'react';
import { MINUTE, type Span } from '../../../domain/time';
import { goesOn } from '../../../domain/windows';
import { useServerClock } from '../../../entities/clock';
import { useSpan } from '../../../entities/windows';
import type { TrendState } from '../model/state';
import type { LiveSnapshot } from './useLive';
import { useNow } from './useNow';
import { useRefreshed } from './useRefreshed';

export interface PlacedWindow {
  /** Where the window lies, or some minutes before now while that is not known. */
  span: Span;
  nowUs: number;
  isLive: boolean;
  isKnown: boolean;
  error: Error | null;
  isClockUnknown: boolean;
}

export function usePlacedWindow(state: TrendState, live: LiveSnapshot, width: number): PlacedWindow {
  const clock = useServerClock();
  const isLive = goesOn(state.window);
  const [everyMs, setEveryMs] = useState(1_000);
  const moving = isLive || state.strips.some((strip) => strip.window?.end.kind === 'now');
  const nowUs = useRefreshed(useNow(clock.offsetUs, everyMs, moving), state.refresh, live);
  const { span: found, error } = useSpan(state.window, nowUs);
  const span = useMemo(() => found ?? { startUs: nowUs - 10 * MINUTE, endUs: nowUs }, [found, nowUs]);
  const pace = paceOf(span, width);
  if (pace !== everyMs) setEveryMs(pace);
  return { span, nowUs, isLive, isKnown: found !== null, error, isClockUnknown: clock.failed };
}

/** So often a live window moves: by about a pixel. */
function paceOf({ startUs, endUs }: Span, width: number): number {
  const pixelMs = (endUs - startUs) / 1000 / Math.max(width, 200);
  // In steps: a window that grows is no reason for another clock at each picture.
  return Math.min(Math.max(Math.ceil(pixelMs / 100) * 100, 100), 1000);
}
