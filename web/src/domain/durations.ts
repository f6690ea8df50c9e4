/** Durations as people write them: 500 ms, 1.5 s, 10 min, 2 h, 30 d. */
import { DAY, HOUR, MINUTE, SECOND } from './time';

const UNITS: readonly (readonly [number, string])[] = [
  [DAY, 'd'],
  [HOUR, 'h'],
  [MINUTE, 'min'],
  [SECOND, 's'],
  [SECOND / 1000, 'ms'],
];
const WRITTEN = /^(\d+(?:[.,]\d+)?)\s*(d|h|min|s|ms)?$/;

/** µs of a written duration, or null when it is none; a bare number is seconds. */
export function parseWritten(text: string): number | null {
  const match = WRITTEN.exec(text.trim().toLowerCase());
  if (match === null) return null;
  const [, number = '', unit = 's'] = match;
  const width = UNITS.find(([, name]) => name === unit)?.[0] ?? SECOND;
  return Math.round(Number(number.replace(',', '.')) * width);
}

/** The duration in its largest whole unit; nothing is left off. */
export function written(us: number): string {
  const unit = UNITS.find(([width]) => us >= width && us % width === 0);
  return unit === undefined ? `${us / SECOND} s` : `${us / unit[0]} ${unit[1]}`;
}
