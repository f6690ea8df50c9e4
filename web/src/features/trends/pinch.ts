/** Two fingers on a plot: the moments that they were put on stay beneath them. */
import type { Span } from '../../shared/lib/time';

const LEAST_SHARE = 0.02;

/** Where two fingers lie, the left one first. */
export function placesOf(fingers: ReadonlyMap<number, number>): [number, number] {
  const [one = 0, two = one] = [...fingers.values()];
  return [Math.min(one, two), Math.max(one, two)];
}

/** The moments under two fingers; null unless there are two of them, apart. */
export function pinchOf(fingers: ReadonlyMap<number, number>, timeAt: (px: number) => number): Span | null {
  if (fingers.size !== 2) return null;
  const [left, right] = placesOf(fingers);
  return left === right ? null : { startUs: timeAt(left), endUs: timeAt(right) };
}

/** The window in which these two moments lie at two shares of its width. */
export function stretched(moments: Span, left: number, right: number): Span {
  const length = (moments.endUs - moments.startUs) / Math.max(right - left, LEAST_SHARE);
  const startUs = moments.startUs - left * length;
  return { startUs, endUs: startUs + length };
}
