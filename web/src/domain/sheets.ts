/** What a sheet of statistics may be asked for. */

/** What is normal: learnt from the equipment of the kind, from earlier stretches, the limits of their class, or
 * each tag's range. */
export const NORMS = ['fleet', 'earlier', 'limits', 'range'] as const;
export type Norm = (typeof NORMS)[number];

/** Stretches into which a window is cut. */
export const STRETCHES = ['auto', 'hour', 'shift', 'day'] as const;
export type StretchKind = (typeof STRETCHES)[number];

/** Another window, for the difference: none, the one before, the same a day or a week earlier. */
export const BESIDES = ['none', 'before', 'day', 'week'] as const;
export type Beside = (typeof BESIDES)[number];

/** A row: a statistic of what all equipment of a kind has. */
export interface Line {
  member: string;
  stat: string;
}
