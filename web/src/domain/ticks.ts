import { momentShown, offsetUs } from './zone';
import { DAY, HOUR, MINUTE, SECOND, type Span } from './time';

const STEPS = [
  SECOND,
  5 * SECOND,
  15 * SECOND,
  30 * SECOND,
  MINUTE,
  2 * MINUTE,
  5 * MINUTE,
  10 * MINUTE,
  15 * MINUTE,
  30 * MINUTE,
  HOUR,
  2 * HOUR,
  3 * HOUR,
  6 * HOUR,
  12 * HOUR,
  DAY,
  2 * DAY,
  7 * DAY,
  14 * DAY,
  30 * DAY,
  90 * DAY,
  365 * DAY,
];

/** At most `most` round times of the zone's clock inside the stretch, also where that clock is set meanwhile. */
export function niceTimeTicks({ startUs, endUs }: Span, most: number, zone: string): number[] {
  const span = endUs - startUs;
  const step = STEPS.find((s) => span / s <= Math.max(most, 1)) ?? Math.ceil(span / (365 * DAY)) * 365 * DAY;
  const offset = offsetUs(startUs, zone);
  const moves = step > HOUR && offsetUs(endUs, zone) !== offset;
  const first = Math.ceil((startUs + offset) / step) * step;
  const count = Math.max(Math.floor((endUs + (moves ? DAY : offset) - first) / step) + 1, 0);
  const shown = Array.from({ length: count }, (_, i) => first + i * step);
  if (!moves) return shown.map((local) => local - offset);
  return shown
    .flatMap((local) => momentShown(local, zone) ?? [])
    .filter((us) => us >= startUs && us <= endUs);
}
