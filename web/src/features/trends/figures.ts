/** The figures a trend offers, by their standard names, and how they are shown. */
import type { components } from '../../api/schema';
import type { PenCard } from './PenCards';

export type Figure = components['schemas']['FigureOut'];

export interface FigureColumn {
  /** Its name in the catalogue of figures. */
  stat: string;
  label: string;
  /** Digits beyond those of the tag, or the digits of a figure of its own. */
  digits: 'tag' | 'more' | number;
}

export const COLUMNS: readonly FigureColumn[] = [
  { stat: 'Minimum', label: 'Lowest', digits: 'tag' },
  { stat: 'Maximum', label: 'Highest', digits: 'tag' },
  { stat: 'Range', label: 'Range', digits: 'tag' },
  { stat: 'TimeAverage2', label: 'Mean by time', digits: 'more' },
  { stat: 'Average', label: 'Mean of samples', digits: 'more' },
  { stat: 'StandardDeviationPopulation', label: 'Std dev', digits: 'more' },
  { stat: 'Median', label: 'Median', digits: 'more' },
  { stat: 'Integral', label: 'Integral', digits: 'more' },
  { stat: 'Delta', label: 'Difference', digits: 'tag' },
  { stat: 'Slope', label: 'Slope', digits: 3 },
  { stat: 'Count', label: 'Samples', digits: 0 },
  { stat: 'PercentGood', label: '% good', digits: 1 },
  { stat: 'RisingEdges', label: 'Rising edges', digits: 0 },
  { stat: 'DurationInStateNonZero', label: 'Time on', digits: 0 },
];

/** A figure in its digits, and what is to be known of it. */
export function figureText(figure: Figure | undefined, decimals: number): { value: string; note: string } {
  if (figure === undefined) return { value: '', note: 'being read' };
  if (figure.refused != null) return { value: '', note: figure.refused.problem };
  const found = figure.values?.[0];
  if (found?.value == null) return { value: '', note: 'no usable samples' };
  const note = found.quality === 'Good' ? '' : found.quality;
  if (typeof found.value === 'boolean') return { value: found.value ? 'on' : 'off', note };
  const number = Number(found.value);
  if (Number.isNaN(number)) return { value: String(found.value), note };
  if (figure.stat === 'DurationInStateNonZero') return { value: `${(number / 1000).toFixed(1)} s`, note };
  const unit = figure.stat === 'PercentGood' ? '' : figure.unit;
  const doubtful = note === '' ? '' : ' ?';
  return {
    value: `${number.toFixed(digitsOf(figure.stat, decimals))}${unit === '' ? '' : ` ${unit}`}${doubtful}`,
    note,
  };
}

function digitsOf(stat: string, decimals: number): number {
  const digits = COLUMNS.find((one) => one.stat === stat)?.digits ?? 'more';
  if (typeof digits === 'number') return digits;
  return digits === 'tag' ? decimals : Math.min(decimals + 2, 12);
}

/** The table as text: columns apart by tabs, full digits, for a spreadsheet. */
export function tableText(
  rows: readonly { card: PenCard; figures: readonly Figure[] }[],
  columns: readonly FigureColumn[],
): string {
  const head = ['Pen', 'Unit', ...columns.map((column) => column.label)];
  const lines = rows.map(({ card, figures }) => [
    quoted(card.trace.tag.name),
    quoted(card.trace.tag.unit),
    ...columns.map((column) => {
      const value = figures.find((one) => one.stat === column.stat)?.values?.[0]?.value;
      return value == null ? '' : String(value);
    }),
  ]);
  return [head, ...lines].map((line) => line.join('\t')).join('\r\n');
}

function quoted(text: string): string {
  return /[",\t\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
