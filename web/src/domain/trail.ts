/** The course of a value over the last minutes. */
import type { Scalar } from './format';

/** Columns of one length; `v` is NaN where the value was Bad. Times in µs. */
export interface Trail {
  t: readonly number[];
  v: readonly number[];
}

export const NO_TRAIL: Trail = { t: [], v: [] };

/** A trail with a value that came in; what ended before `fromUs` is left out. */
export function lengthened(trail: Trail, tUs: number, v: number, fromUs: number): Trail {
  const last = trail.t.at(-1);
  if (last !== undefined && tUs <= last) return trail;
  // The last one before holds until the first one inside.
  const first = Math.max(trail.t.findIndex((t) => t >= fromUs) - 1, 0);
  return { t: [...trail.t.slice(first), tUs], v: [...trail.v.slice(first), v] };
}

/** What was read from history, and behind it what came in meanwhile. */
export function joined(read: Trail, since: Trail): Trail {
  const end = read.t.at(-1) ?? -Infinity;
  const first = since.t.findIndex((t) => t > end);
  if (first < 0) return read;
  return { t: [...read.t, ...since.t.slice(first)], v: [...read.v, ...since.v.slice(first)] };
}

/** A value as a number: contacts are 0 and 1; null: a text, which has no course. */
export function numberOf(value: Scalar): number | null {
  if (typeof value === 'string') {
    // Whole numbers beyond 2^53 come as texts.
    return value.trim() !== '' && Number.isFinite(Number(value)) ? Number(value) : null;
  }
  return value === null ? NaN : Number(value);
}
