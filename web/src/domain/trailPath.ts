/** A small picture of the course of a value. */
import type { Trail } from './trail';

export interface TrailPlace {
  startUs: number;
  endUs: number;
  width: number;
  height: number;
  /** A scale is no narrower: noise is not to look like an event. */
  least: number;
  isStepped: boolean;
}

/** The line of a trail as an SVG path; '' where there is none. It is broken where the value was Bad. */
export function trailPath({ t, v }: Trail, place: TrailPlace): string {
  const { startUs, endUs, width, height, least, isStepped } = place;
  const inside = v.filter((value, i) => Number.isFinite(value) && (t[i + 1] ?? endUs) > startUs);
  if (inside.length === 0) return '';
  const [low, high] = [Math.min(...inside), Math.max(...inside)];
  const more = Math.max(least - (high - low), 0) / 2;
  const span = Math.max(high - low + 2 * more, Number.MIN_VALUE);
  const x = (us: number): string =>
    (((Math.min(Math.max(us, startUs), endUs) - startUs) / (endUs - startUs)) * width).toFixed(1);
  const y = (value: number): string => (height - ((value - low + more) / span) * height).toFixed(1);
  const parts: string[] = [];
  let isDown = false;
  t.forEach((us, i) => {
    const value = v[i] ?? NaN;
    const isSeen = (t[i + 1] ?? endUs) > startUs;
    if (isSeen && Number.isFinite(value)) {
      if (!isDown) parts.push(`M${x(us)} ${y(value)}`);
      else parts.push(isStepped ? `H${x(us)}V${y(value)}` : `L${x(us)} ${y(value)}`);
    } else if (isDown) parts.push(`H${x(us)}`);
    isDown = isSeen && Number.isFinite(value);
  });
  // The newest value holds until now.
  if (Number.isFinite(v.at(-1) ?? NaN)) parts.push(`H${x(endUs)}`);
  return parts.join('');
}
