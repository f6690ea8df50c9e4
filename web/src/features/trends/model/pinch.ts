/** Two fingers on a plot, or a wheel: the moments that they were put on stay beneath them. */
import type { Span } from '../../../domain/time';

const LEAST_SHARE = 0.02;
/** What browsers tell of one click of a wheel. */
const [PIXELS_A_CLICK, LINES_A_CLICK] = [100, 3];

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

/** By how much a turn of the wheel lengthens the window: by a quarter for a click of it. Turns that a browser under
 * load tells as one are as much as each of them was, and a touchpad's small ones are small. */
export function zoomOf({ deltaY, deltaMode }: Pick<WheelEvent, 'deltaY' | 'deltaMode'>): number {
  const clicks = deltaY / (deltaMode === 0 ? PIXELS_A_CLICK : LINES_A_CLICK);
  return Math.min(Math.max(1.25 ** clicks, 0.1), 10);
}
