/** The curves of pens that are made as they are looked at. */
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Curve } from '../../../entities/curves';
import { coarse } from '../../../domain/steps';
import { SECOND, type Span } from '../../../domain/time';
import { wanted, type MadePens } from '../model/made';
import { madeQuery } from '../../../entities/curveQueries';

/** A live window is calculated anew when it has moved by this share of its length. */
const MOVED_SHARE = 0.01;

export function useMade(
  made: MadePens,
  uids: readonly string[],
  span: Span,
  width: number,
): ReadonlyMap<string, Curve> {
  const pens = useMemo(
    () =>
      uids.flatMap((uid) => {
        const pen = made[uid];
        return pen === undefined ? [] : [wanted(uid, pen)];
      }),
    [made, uids],
  );
  const length = coarse(span.endUs - span.startUs);
  const step = Math.max(length * MOVED_SHARE, 2 * SECOND);
  // A held window stands where it stands; a live one in steps, with some room behind it.
  const endUs = Math.ceil(span.endUs / step) * step;
  const request = { pens, startUs: Math.floor(endUs - length - 2 * step), endUs, width };
  const { data } = useQuery(madeQuery(pens.length === 0 || width === 0 ? null : request));
  return useMemo(() => new Map(data?.map((curve) => [curve.details.tag, curve])), [data]);
}
