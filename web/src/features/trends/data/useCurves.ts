import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { Curve, CurvesRequest } from '../../../entities/curves';
import { errorText } from '../../../platform/errors';
import { SECOND, type Span } from '../../../domain/time';
import { goesOn, type WindowChoice } from '../../../domain/windows';
import { curvesQuery } from '../../../entities/curveQueries';

export interface Curves {
  curves: ReadonlyMap<string, Curve>;
  status: 'pending' | 'error' | 'success';
  /** The window on the screen is not the one of the curves yet. */
  stale: boolean;
  error: string;
  /** Until when they were read; null: not yet. */
  readUntilUs: number | null;
}

/** A live window is read anew when it has moved by this share of its length. */
const MOVED_SHARE = 0.2;
/** Windows that follow each other within this time are asked for when the last of them stands; a single one at
 * once. */
const SETTLE_MS = 60;

export interface CurvesWish {
  tags: readonly string[];
  archives: readonly string[];
  window: WindowChoice;
  span: Span;
  width: number;
  resyncs: number;
  /** From when on no live sample is missing, µs; 0: not known yet. */
  sinceUs: number;
}

/** The curves of a window; a live one is read now and then, samples arrive in between by the live link. */
export function useCurves(wish: CurvesWish): Curves {
  const [holeUs, setHoleUs] = useState(0);
  const request = useRequest(wish, `${wish.resyncs} ${holeUs}`);
  const { data, status, error, isPlaceholderData } = useQuery(curvesQuery(request));
  // A curve read before the live link began has a hole until it is read anew: a spike may lie in it.
  const hole = data?.some((curve) => Number(curve.details.known_until_us) < wish.sinceUs) ?? false;
  if (hole && holeUs !== wish.sinceUs) setHoleUs(wish.sinceUs);
  const curves = useMemo(() => new Map(data?.map((curve) => [curve.details.tag, curve])), [data]);
  const state = wish.tags.length === 0 ? 'success' : status;
  const readUntilUs = data === undefined || isPlaceholderData || request === null ? null : request.endUs;
  return {
    curves,
    status: state,
    stale: isPlaceholderData,
    readUntilUs,
    error: error === null ? '' : errorText(error),
  };
}

/** Tells windows apart: one that goes on with the clock stays the same while it does. */
function placeOf(window: WindowChoice, { startUs, endUs }: Span): string {
  if (!goesOn(window)) return `${startUs}+${endUs - startUs}`;
  return window.kind === 'last' ? `live ${window.lengthUs} ${window.agoUs}` : `from ${startUs}`;
}

interface Made {
  key: string;
  request: CurvesRequest;
}

function useRequest(wish: CurvesWish, reading: string): CurvesRequest | null {
  const { tags, archives, window, span, width } = wish;
  const [made, setMade] = useState<Made | null>(null);
  const length = span.endUs - span.startUs;
  const where = placeOf(window, span);
  const key = [where, width, reading, ...tags, ...archives].join();
  const moved = made !== null && span.endUs - made.request.endUs > Math.max(length * MOVED_SHARE, 5 * SECOND);
  const usable = width > 0 && tags.length > 0;
  const due = usable && (made?.key !== key || (goesOn(window) && moved));

  const changedMs = useRef(0);
  const queries = useQueryClient();
  // Before the old picture is drawn stretched: the server is at work meanwhile.
  useLayoutEffect(() => {
    if (!due) return undefined;
    const [startUs, endUs] = [Math.floor(span.startUs), Math.ceil(span.endUs)];
    const request = { tags: [...tags], archives: [...archives], startUs, endUs, width, reading };
    const alone = performance.now() - changedMs.current > SETTLE_MS;
    changedMs.current = performance.now();
    const ask = (): void => {
      // It is under way before the page is drawn anew for it; a failure is told to who reads it then.
      queries.query(curvesQuery(request)).catch(() => undefined);
      setMade({ key, request });
    };
    if (alone) {
      ask();
      return undefined;
    }
    const timer = globalThis.setTimeout(ask, SETTLE_MS);
    return () => globalThis.clearTimeout(timer);
    // The span of a live window moves all the time; `due` says when that matters.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [due, key]);
  return made?.request ?? null;
}
