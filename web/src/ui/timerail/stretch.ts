import { coarse } from '../../domain/steps';
import { HOUR, MINUTE, type Span } from '../../domain/time';

/** A stretch about six windows long around one, in steps, so that it does not move with every second. */
export function stretchOf(span: Span, nowUs: number): Span {
  const length = coarse(Math.max((span.endUs - span.startUs) * 6, HOUR));
  const step = Math.max(length / 24, MINUTE);
  const latest = Math.ceil(nowUs / step) * step;
  const centred = Math.ceil((span.startUs + span.endUs + length) / 2 / step) * step;
  const endUs = Math.min(Math.max(centred, span.endUs), Math.max(latest, span.endUs));
  return { startUs: Math.min(endUs - length, span.startUs), endUs };
}

/** What is left of a stretch without the gaps in it. */
export function withoutGaps(gaps: readonly Span[], stretch: Span): Span[] {
  const found: Span[] = [];
  let from = stretch.startUs;
  for (const gap of [...gaps].sort((a, b) => a.startUs - b.startUs)) {
    if (gap.startUs > from) found.push({ startUs: from, endUs: gap.startUs });
    from = Math.max(from, gap.endUs);
  }
  if (from < stretch.endUs) found.push({ startUs: from, endUs: stretch.endUs });
  return found;
}
