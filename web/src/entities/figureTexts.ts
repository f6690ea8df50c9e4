/** The figures that are offered, by their standard names, and how they are shown. */
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../domain/fill';
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
  { stat: 'Minimum', label: common.min, digits: 'tag' },
  { stat: 'Maximum', label: common.max, digits: 'tag' },
  { stat: 'Range', label: common.range, digits: 'tag' },
  { stat: 'TimeAverage2', label: wording.timeWeightedMean, digits: 'more' },
  { stat: 'Average', label: wording.meanOfSamples, digits: 'more' },
  { stat: 'Deviation', label: wording.timeWeightedStdDev, digits: 'more' },
  { stat: 'StandardDeviationPopulation', label: wording.stdDevOfSamples, digits: 'more' },
  { stat: 'Median', label: wording.median, digits: 'more' },
  { stat: 'Integral', label: wording.integral, digits: 'more' },
  { stat: 'Delta', label: wording.difference, digits: 'tag' },
  { stat: 'Slope', label: wording.slope, digits: 3 },
  { stat: 'Travel', label: wording.travel, digits: 'tag' },
  { stat: 'Count', label: common.samples, digits: 0 },
  { stat: 'PercentGood', label: wording.percentGood, digits: 1 },
  { stat: 'Starts', label: wording.starts, digits: 0 },
  { stat: 'RisingEdges', label: wording.risingEdges, digits: 0 },
  { stat: 'DurationInStateNonZero', label: wording.timeOn, digits: 0 },
];

/** A figure in its digits, and what is to be known of it. */
export function figureText(figure: Figure | undefined, decimals: number): { value: string; note: string } {
  if (figure === undefined) return { value: '', note: wording.beingRead };
  if (figure.refused != null) return { value: '', note: figure.refused.problem };
  const found = figure.values?.[0];
  if (found?.value == null) return { value: '', note: common.noUsableSamples };
  const note = found.quality === 'Good' ? '' : qualityNote(found.quality, found.good);
  if (typeof found.value === 'boolean') return { value: found.value ? common.on : common.off, note };
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

const QUALITIES: Readonly<Record<string, string>> = {
  Good: wording.goodQuality,
  Uncertain: wording.uncertainQuality,
  Bad: wording.badQuality,
};

/** The quality of a figure, and for how much of its time what it is made of was Good, in percent. */
export function qualityNote(quality: string, good: number): string {
  return `${QUALITIES[quality] ?? quality}, ${goodText(good)}`;
}

/** For how much of its time a figure has Good values; never rounded up to all of it. */
export function goodText(percent: number): string {
  const shown =
    percent >= 100
      ? '100'
      : Math.min(percent, 99.99)
          .toFixed(2)
          .replace(/\.?0+$/, '');
  return fill(wording.goodForShownPercentOfThe, { shown });
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
