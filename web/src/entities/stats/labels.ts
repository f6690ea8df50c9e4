/** All figures of one number that may be chosen: what they are called, their digits and their options. */
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
    name: 'Usual',
    statistics: COLUMNS.map((one) => {
      const options = OPTIONS[one.stat];
      const inMs = one.stat === 'DurationInStateNonZero';
      return { ...one, ...(options ? { options } : {}), ...(inMs ? { inMs: true as const } : {}) };
    }),
  },
  {
    name: 'Values',
    statistics: [
      { stat: 'Percentile', label: 'Percentile', digits: 'more', options: ['percent', 'weight'] },
      { stat: 'Start', label: 'First sample', digits: 'tag' },
      { stat: 'End', label: 'Last sample', digits: 'tag' },
      { stat: 'StartBound', label: 'Value at the start', digits: 'tag' },
      { stat: 'EndBound', label: 'Value at the end', digits: 'tag' },
      { stat: 'Interpolative', label: 'Value at the start, interpolated', digits: 'tag' },
      { stat: 'Minimum2', label: 'Min with bounds', digits: 'tag' },
      { stat: 'Maximum2', label: 'Max with bounds', digits: 'tag' },
      { stat: 'Range2', label: 'Range with bounds', digits: 'tag' },
      { stat: 'DeltaBounds', label: 'Difference with bounds', digits: 'tag' },
      { stat: 'TimeAverage', label: 'Time-weighted mean, bad values bridged', digits: 'more' },
      { stat: 'Total2', label: 'Total', digits: 'more' },
      { stat: 'Total', label: 'Total, bad values bridged', digits: 'more' },
    ],
  },
  {
    name: 'Spread and change',
    statistics: [
      { stat: 'StandardDeviationSample', label: 'Std dev of samples (n − 1)', digits: 'more' },
      { stat: 'VariancePopulation', label: 'Variance of samples', digits: 'more' },
      { stat: 'VarianceSample', label: 'Variance of samples (n − 1)', digits: 'more' },
      { stat: 'Variation', label: 'Coefficient of variation', digits: 1, options: ['weight'] },
      { stat: 'RateOfChange', label: 'Rate of change', digits: 3, options: ['base'] },
    ],
  },
  {
    name: 'Contacts and states',
    statistics: [
      { stat: 'FallingEdges', label: 'Falling edges', digits: 0 },
      { stat: 'NumberOfTransitions', label: 'Changes', digits: 0 },
      { stat: 'DurationInStateZero', label: 'Time off', digits: 1, inMs: true },
      { stat: 'OnTimeLongest', label: 'Longest time on', digits: 1 },
      { stat: 'OnTimeShortest', label: 'Shortest time on', digits: 1 },
      { stat: 'OnTimeMean', label: 'Mean time on', digits: 1 },
      { stat: 'TimeInState', label: 'Time in state', digits: 1, options: ['state'] },
      { stat: 'StateEntries', label: 'Entries into state', digits: 0, options: ['state'] },
      { stat: 'StateLongest', label: 'Longest time in state', digits: 1, options: ['state'] },
    ],
  },
  {
    name: 'Quality',
    statistics: [
      { stat: 'PercentBad', label: '% bad', digits: 1 },
      { stat: 'DurationGood', label: 'Time good', digits: 1, inMs: true },
      { stat: 'DurationBad', label: 'Time bad', digits: 1, inMs: true },
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
  if (weight === 'samples') parts.push('of samples');
  if (base != null) parts.push(name === 'Integral' ? `over ${base}s` : `per ${base}`);
  return parts.join(' ');
}

type Scalar = string | number | boolean | null | undefined;

/** A figure of one number in the digits of its tag, a time in seconds. */
export function numberText(value: Scalar, text: string, decimals: number): string {
  if (value == null) return '–';
  if (typeof value === 'boolean') return value ? 'on' : 'off';
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
    return 'Give a number from 0 to 100.';
  if (options.includes('state') && (number === null || !Number.isInteger(number)))
    return 'Give the number of the state, a whole one.';
  return '';
}
