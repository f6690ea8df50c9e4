/** What is asked of figures, in the form of the server. */
import type { Span } from '../shared/lib/time';
import type { components } from './schema';

export type FigureIn = components['schemas']['FigureIn'];
export const CONFIGURATION = {
  treat_uncertain_as_bad: false,
  percent_good: 100,
  percent_bad: 100,
  sloped_extrapolation: false,
};

export function figureIn(stat: string): FigureIn {
  return { stat, percent: 50, weight: 'time', bins: 20, base_us: 60_000_000 };
}

export function windowIn(range: Span): components['schemas']['WindowIn'] {
  const [start_us, end_us] = [Math.round(range.startUs), Math.round(range.endUs)];
  return { start_us, end_us, which: 'this', split: { interval_us: 0 } };
}
