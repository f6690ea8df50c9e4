/** The same pens earlier: their curves, moved to the window that is shown. */
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { Pen } from '../../../chart';
import { coarse } from '../../../domain/steps';
import type { Span } from '../../../domain/time';
import type { MadePens } from '../model/made';
import { toGhost } from '../model/model';
import { curvesQuery } from '../../../entities/curveQueries';

/** A live window moves: what lay beside it is read for a stretch in steps, a bit longer than the window. */
const STEPS = 20;

export function useGhosts(
  all: readonly Pen[],
  made: MadePens,
  span: Span,
  width: number,
  byUs: number,
): Pen[] {
  const pens = useMemo(() => all.filter((pen) => made[pen.id] === undefined), [all, made]);
  const length = coarse(span.endUs - span.startUs);
  const step = length / STEPS;
  const startUs = Math.floor(span.startUs / step) * step - byUs;
  const request =
    byUs === 0 || pens.length === 0 || width === 0
      ? null
      : { tags: pens.map((pen) => pen.id), startUs, endUs: startUs + length + step, width };
  const { data, isPlaceholderData } = useQuery(curvesQuery(request));
  return useMemo(() => {
    if (data === undefined || isPlaceholderData) return [];
    return pens.flatMap((pen) => {
      const curve = data.find((one) => one.details.tag === pen.id);
      return curve === undefined ? [] : [toGhost(pen, curve, byUs)];
    });
  }, [data, isPlaceholderData, pens, byUs]);
}
