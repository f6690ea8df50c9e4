/** The figures that are offered, by their standard names, and how they are shown. */
import type { components } from '../platform/schema';

export type Figure = components['schemas']['FigureOut'];

export interface FigureColumn {
  /** Its name in the catalogue of figures. */
  stat: string;
  label: string;
  /** Digits beyond those of the tag, or the digits of a figure of its own. */
  digits: 'tag' | 'more' | number;
}

export const COLUMNS: readonly FigureColumn[] = [
  { stat: 'Minimum', label: 'Min', digits: 'tag' },
  { stat: 'Maximum', label: 'Max', digits: 'tag' },
  { stat: 'Range', label: 'Range', digits: 'tag' },
  { stat: 'TimeAverage2', label: 'Time-weighted mean', digits: 'more' },
  { stat: 'Average', label: 'Mean of samples', digits: 'more' },
  { stat: 'Deviation', label: 'Time-weighted std dev', digits: 'more' },
  { stat: 'StandardDeviationPopulation', label: 'Std dev of samples', digits: 'more' },
  { stat: 'Median', label: 'Median', digits: 'more' },
  { stat: 'Integral', label: 'Integral', digits: 'more' },
  { stat: 'Delta', label: 'Difference', digits: 'tag' },
  { stat: 'Slope', label: 'Slope', digits: 3 },
  { stat: 'Travel', label: 'Travel', digits: 'tag' },
  { stat: 'Count', label: 'Samples', digits: 0 },
  { stat: 'PercentGood', label: '% good', digits: 1 },
  { stat: 'Starts', label: 'Starts', digits: 0 },
  { stat: 'RisingEdges', label: 'Rising edges', digits: 0 },
  { stat: 'DurationInStateNonZero', label: 'Time on', digits: 0 },
];

/** A figure in its digits, and what is to be known of it. */
export function figureText(figure: Figure | undefined, decimals: number): { value: string; note: string } {
  if (figure === undefined) return { value: '', note: 'being read' };
  if (figure.refused != null) return { value: '', note: figure.refused.problem };
  const found = figure.values?.[0];
  if (found?.value == null) return { value: '', note: 'no usable samples' };
  const note = found.quality === 'Good' ? '' : `${found.quality}, ${goodText(found.good)}`;
  if (typeof found.value === 'boolean') return { value: found.value ? 'on' : 'off', note };
  const number = Number(found.value);
  if (Number.isNaN(number)) return { value: String(found.value), note };
  if (figure.stat === 'DurationInStateNonZero') return { value: `${(number / 1000).toFixed(1)} s`, note };
  const unit = figure.stat === 'PercentGood' ? '' : figure.unit;
  const doubtful = found.doubtful ? ' ?' : '';
  return {
    value: `${number.toFixed(digitsOf(figure.stat, decimals))}${unit === '' ? '' : ` ${unit}`}${doubtful}`,
    note,
  };
}

/** For how much of its time a figure has Good values; never rounded up to all of it. */
export function goodText(percent: number): string {
  const shown =
    percent >= 100
      ? '100'
      : Math.min(percent, 99.99)
          .toFixed(2)
          .replace(/\.?0+$/, '');
  return `Good for ${shown} % of the time`;
}

/** The share of its time that every one of several figures lacks alike, as one gap of all leaves it: then it is
 * said once. Null where they differ, or are few. */
export function sharedGap(cells: readonly { doubtful?: boolean; good?: number | null }[]): number | null {
  const shares = cells.flatMap((cell) => (cell.good == null ? [] : [cell.good]));
  if (shares.length < 3 || !cells.every((cell) => cell.good == null || cell.doubtful === true)) return null;
  const [least, most] = [Math.min(...shares), Math.max(...shares)];
  return most - least <= 0.5 ? least : null;
}

/** With how many decimals a figure of a tag is shown. */
export function digitsOf(stat: string, decimals: number): number {
  const digits = COLUMNS.find((one) => one.stat === stat)?.digits ?? 'more';
  if (typeof digits === 'number') return digits;
  return digits === 'tag' ? decimals : Math.min(decimals + 2, 12);
}
