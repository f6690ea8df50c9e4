/** All figures of one number that may be chosen: what they are called, their digits and their options. */
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../../domain/fill';
import { parseNumber } from '../../domain/numbers';
import { figureIn, type FigureIn } from '../figures';
import { COLUMNS, digitsOf, type FigureColumn } from '../figureTexts';

/** What a figure may be told beyond its name. */
export type Option = 'percent' | 'state' | 'weight' | 'base';

interface Statistic extends FigureColumn {
  options?: readonly Option[];
  /** The server gives it in milliseconds; it is shown in seconds. */
  inMs?: true;
}

interface Group {
  name: string;
  statistics: readonly Statistic[];
}

const OPTIONS: Readonly<Record<string, readonly Option[]>> = {
  Deviation: ['weight'],
  Median: ['weight'],
  Integral: ['base'],
  Slope: ['base'],
};

export const GROUPS: readonly Group[] = [
  {
    name: wording.usual,
    statistics: COLUMNS.map((one) => {
      const options = OPTIONS[one.stat];
      const inMs = one.stat === 'DurationInStateNonZero';
      return { ...one, ...(options ? { options } : {}), ...(inMs ? { inMs: true as const } : {}) };
    }),
  },
  {
    name: wording.values,
    statistics: [
      { stat: 'Percentile', label: wording.percentile, digits: 'more', options: ['percent', 'weight'] },
      { stat: 'Start', label: common.firstSample, digits: 'tag' },
      { stat: 'End', label: common.lastSample, digits: 'tag' },
      { stat: 'StartBound', label: wording.valueAtTheStart, digits: 'tag' },
      { stat: 'EndBound', label: wording.valueAtTheEnd, digits: 'tag' },
      { stat: 'Interpolative', label: wording.valueAtTheStartInterpolated, digits: 'tag' },
      { stat: 'Minimum2', label: wording.minWithBounds, digits: 'tag' },
      { stat: 'Maximum2', label: wording.maxWithBounds, digits: 'tag' },
      { stat: 'Range2', label: wording.rangeWithBounds, digits: 'tag' },
      { stat: 'DeltaBounds', label: wording.differenceWithBounds, digits: 'tag' },
      { stat: 'TimeAverage', label: wording.timeWeightedMeanBadValuesBridged, digits: 'more' },
      { stat: 'Total2', label: common.total, digits: 'more' },
      { stat: 'Total', label: wording.totalBadValuesBridged, digits: 'more' },
    ],
  },
  {
    name: wording.spreadAndChange,
    statistics: [
      { stat: 'StandardDeviationSample', label: wording.stdDevOfSamplesN1, digits: 'more' },
      { stat: 'VariancePopulation', label: wording.varianceOfSamples, digits: 'more' },
      { stat: 'VarianceSample', label: wording.varianceOfSamplesN1, digits: 'more' },
      { stat: 'Variation', label: wording.coefficientOfVariation, digits: 1, options: ['weight'] },
      { stat: 'RateOfChange', label: wording.rateOfChange, digits: 3, options: ['base'] },
    ],
  },
  {
    name: wording.contactsAndStates,
    statistics: [
      { stat: 'FallingEdges', label: wording.fallingEdges, digits: 0 },
      { stat: 'NumberOfTransitions', label: common.changes, digits: 0 },
      { stat: 'DurationInStateZero', label: wording.timeOff, digits: 1, inMs: true },
      { stat: 'OnTimeLongest', label: wording.longestTimeOn, digits: 1 },
      { stat: 'OnTimeShortest', label: wording.shortestTimeOn, digits: 1 },
      { stat: 'OnTimeMean', label: wording.meanTimeOn, digits: 1 },
      { stat: 'TimeInState', label: wording.timeInState, digits: 1, options: ['state'] },
      { stat: 'StateEntries', label: wording.entriesIntoState, digits: 0, options: ['state'] },
      { stat: 'StateLongest', label: wording.longestTimeInState, digits: 1, options: ['state'] },
    ],
  },
  {
    name: common.quality,
    statistics: [
      { stat: 'PercentBad', label: wording.percentBad, digits: 1 },
      { stat: 'DurationGood', label: wording.timeGood, digits: 1, inMs: true },
      { stat: 'DurationBad', label: wording.timeBad, digits: 1, inMs: true },
    ],
  },
];

function statisticOf(text: string): Statistic | undefined {
  const name = nameOf(text);
  return GROUPS.flatMap((group) => group.statistics).find((one) => one.stat === name);
}

/** The name of a figure without its options. */
export function nameOf(text: string): string {
  return text.split(' ')[0] ?? '';
}

export function optionsOf(text: string): readonly Option[] {
  return statisticOf(text)?.options ?? [];
}

/** What a figure is called, with its options. */
export function statLabel(text: string): string {
  const { percent, state, weight, base } = figureIn(text);
  const name = nameOf(text);
  const parts = [statisticOf(text)?.label ?? name];
  if (name === 'Percentile') parts.push(`${percent}`);
  if (state != null) parts.push(`${state}`);
  if (weight === 'samples') parts.push(wording.ofSamples);
  if (base != null)
    parts.push(name === 'Integral' ? fill(wording.overBaseS, { base }) : fill(wording.perBase, { base }));
  return parts.join(' ');
}

type Scalar = string | number | boolean | null | undefined;

/** A figure of one number in the digits of its tag, a time in seconds. */
export function numberText(value: Scalar, text: string, decimals: number): string {
  if (value == null) return '–';
  if (typeof value === 'boolean') return value ? common.on : common.off;
  const number = Number(value);
  if (Number.isNaN(number)) return String(value);
  const statistic = statisticOf(text);
  if (statistic?.inMs === true) return (number / 1000).toFixed(1);
  const digits = typeof statistic?.digits === 'number' ? statistic.digits : null;
  if (digits !== null) return number.toFixed(digits);
  return number.toFixed(statistic?.digits === 'tag' ? decimals : digitsOf(text, decimals));
}

/** The unit in which it is shown. */
export function unitShown(text: string, unit: string): string {
  return statisticOf(text)?.inMs === true ? 's' : unit;
}

/** The line of a figure in the form of the server. */
export function figureLine({ stat, percent, state, weight, base }: FigureIn): string {
  const words = [stat];
  if (stat === 'Percentile') words.push(`${percent}`);
  if (state != null) words.push(`${state}`);
  if (weight === 'samples') words.push(weight);
  if (base != null) words.push(base);
  return words.join(' ');
}

/** Why a figure cannot be asked for with what stands in its options; '' where it can. */
export function statProblem(text: string): string {
  const words = text.split(' ').slice(1);
  const number = parseNumber(words[0] ?? '');
  const options = optionsOf(text);
  if (options.includes('percent') && (number === null || number < 0 || number > 100))
    return wording.giveANumberFrom0To;
  if (options.includes('state') && (number === null || !Number.isInteger(number)))
    return wording.giveTheNumberOfTheState;
  return '';
}
