import { DAY, HOUR, MINUTE, SECOND, type Span } from '../lib/time';

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

/** What the zone's clock is ahead of UTC at a moment, µs. */
function offsetUs(us: number, zone: string): number {
  const ms = Math.floor(us / 1000);
  const local = new Date(ms).toLocaleString('sv-SE', { timeZone: zone });
  return (Date.parse(`${local.replace(' ', 'T')}Z`) - Math.floor(ms / 1000) * 1000) * 1000;
}

/** At most `most` round times of the zone's clock inside the stretch. */
export function niceTimeTicks({ startUs, endUs }: Span, most: number, zone: string): number[] {
  const span = endUs - startUs;
  const step = STEPS.find((s) => span / s <= Math.max(most, 1)) ?? Math.ceil(span / (365 * DAY)) * 365 * DAY;
  const offset = offsetUs(startUs, zone);
  const first = Math.ceil((startUs + offset) / step) * step - offset;
  const count = Math.max(Math.floor((endUs - first) / step) + 1, 0);
  return Array.from({ length: count }, (_, i) => first + i * step);
}
