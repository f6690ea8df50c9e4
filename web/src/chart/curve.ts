/** What the chart draws: plain columns, in order of time; `v` is NaN where there is no value. */
import { isBad } from '../domain/quality';
import type { Span } from '../domain/time';

export interface Columns {
  t: Float64Array;
  v: Float64Array;
  q: Uint16Array;
}

export interface Pen {
  id: string;
  number: number;
  colour: string;
  stepped: boolean;
  columns: Columns;
  /** Behind the last sample the line is held until here, µs. */
  heldUntilUs: number;
  low: number;
  high: number;
  /** Logarithmic; `low` is above 0. */
  log: boolean;
  /** Written at the left end of its line. */
  label: string;
  dimmed: boolean;
  /** 1: opaque. */
  alpha: number;
  dash: boolean;
  /** Which axis may show its scale. */
  axis: 'left' | 'right' | 'none';
  /** CSS pixels. */
  width: number;
  draw: 'line' | 'area' | 'points';
  /** A limit or set point: dashed and lighter. */
  guide: boolean;
  /** Constants on its scale, drawn as guide lines. */
  lines: readonly number[];
  gaps: readonly { startUs: number; endUs: number }[];
  /** It has markers of a form of its own. */
  markers?: boolean;
  /** Names of its values, where they are states: written on the line. */
  states: Readonly<Record<string, string>>;
}

export interface ContactRow {
  id: string;
  /** It is drawn over the curves, not in a row of its own. */
  isOver?: boolean;
  label: string;
  columns: Columns;
  heldUntilUs: number;
  gaps: readonly { startUs: number; endUs: number }[];
}

/** Where a value lies on its pen's scale: 0 at the lower end, 1 at the upper one. */
export function shareOf({ low, high, log }: Pick<Pen, 'low' | 'high' | 'log'>, v: number): number {
  if (!log) return (v - low) / (high - low);
  // What a logarithm cannot show lies below the scale.
  return Math.log(Math.max(v, low * 1e-3) / low) / Math.log(high / low);
}

/** The last index with t <= wanted, or -1. */
export function indexAt(t: Float64Array, wanted: number): number {
  let low = 0;
  let high = t.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((t[middle] ?? Infinity) <= wanted) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Lowest and highest usable value with start <= t <= end, and the held ones at the edges; null if none. */
export function extent(
  columns: Columns,
  startUs: number,
  endUs: number,
): { low: number; high: number } | null {
  const first = Math.max(indexAt(columns.t, startUs), 0);
  const last = indexAt(columns.t, endUs);
  let low = Infinity;
  let high = -Infinity;
  for (let i = first; i <= last; i++) {
    const v = columns.v[i] ?? NaN;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  return low <= high ? { low, high } : null;
}

/** A curve with samples appended; those not behind its end are there already. */
export function appended(curve: Columns, more: { t: number[]; v: number[]; q: number[] }): Columns {
  const end = curve.t.at(-1) ?? -Infinity;
  const first = more.t.findIndex((t) => t > end);
  if (first < 0) return curve;
  // Typed copies: a day's curve is continued several times a second.
  const size = curve.t.length + more.t.length - first;
  const [t, v, q] = [new Float64Array(size), new Float64Array(size), new Uint16Array(size)];
  t.set(curve.t);
  v.set(curve.v);
  q.set(curve.q);
  t.set(more.t.slice(first), curve.t.length);
  v.set(more.v.slice(first), curve.v.length);
  q.set(more.q.slice(first), curve.q.length);
  return { t, v, q };
}

/** The states of a contact in a stretch, one after the other; bad ones are left out. */
export function eachState(
  { t, v, q }: Columns,
  heldUntilUs: number,
  plot: Span,
  tell: (fromUs: number, toUs: number, on: boolean) => void,
): void {
  const last = indexAt(t, plot.endUs);
  for (let i = Math.max(indexAt(t, plot.startUs), 0); i <= last; i++) {
    if (isBad(q[i] ?? 0)) continue;
    tell(t[i] ?? 0, t[i + 1] ?? Math.max(heldUntilUs, t[i] ?? 0), (v[i] ?? 0) !== 0);
  }
}
