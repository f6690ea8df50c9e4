/** Windows that people choose, with their meaning. */

export type WindowChoice =
  | { kind: 'last'; lengthUs: number }
  | { kind: 'unit'; unit: 'shift' | 'day' | 'week'; which: 'this' | 'last' }
  | { kind: 'held'; startUs: number; endUs: number };

/** Whether a window goes on while it is looked at. */
export function isLive(window: WindowChoice): boolean {
  return window.kind === 'last' || (window.kind === 'unit' && window.which === 'this');
}
