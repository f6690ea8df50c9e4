/** The lines of a table of samples, and what stands in their cells. */
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { valueText, type Scalar } from '../../domain/format';
import { isBad, isUncertain } from '../../domain/quality';
import { reasonText } from '../../domain/reasons';
import { dayText, lengthText, SECOND } from '../../domain/time';
import type { SampleCell, SampleGap, SampleRow } from '../../entities/samples/rows';
import type { Tag } from '../../platform/client';

/** A row of values, or where values are missing. */
export type Line = { key: string; tUs: number } & (
  { row: SampleRow; gap: null } | { row: null; gap: SampleGap }
);

/** Rows and gaps by time, newest first; what lies before the window was in it when it was read. */
export function linesOf(rows: readonly SampleRow[], gaps: readonly SampleGap[], sinceUs: number): Line[] {
  const lines: Line[] = [];
  // One that lasts is in what is new and in what was read before.
  const left = [...new Map(gaps.map((gap) => [`${gap.tag} ${gap.start_us}`, gap])).values()].sort(
    (one, two) => Number(two.start_us) - Number(one.start_us),
  );
  const takeGaps = (laterThanUs: number): void => {
    while (left[0] !== undefined && Number(left[0].start_us) >= laterThanUs) {
      const gap = left.shift();
      if (gap === undefined || Number(gap.end_us) <= sinceUs) continue;
      lines.push({ key: `gap ${gap.tag} ${gap.start_us}`, tUs: Number(gap.start_us), row: null, gap });
    }
  };
  for (const row of rows) {
    const tUs = Number(row.t_us);
    if (tUs < sinceUs) continue;
    takeGaps(tUs);
    lines.push({ key: `${row.t_us} ${row.tag ?? ''}`, tUs, row, gap: null });
  }
  takeGaps(-Infinity);
  return lines;
}

/** When it was, by the plant's clock, as tables of other programs take it: texts in this form are in order of time. */
export function stampOf(tUs: number, zone: string): string {
  const [day, clock] = dayAndClock(tUs, zone, 'sv-SE');
  return `${day} ${clock}.${microsOf(tUs)}`;
}

const microsOf = (tUs: number): string => String(tUs - Math.floor(tUs / SECOND) * SECOND).padStart(6, '0');

function dayAndClock(tUs: number, zone: string, locale: string): [string, string] {
  const format = new Intl.DateTimeFormat(locale, {
    timeZone: zone,
    hourCycle: 'h23',
    dateStyle: 'short',
    timeStyle: 'medium',
  });
  const [day = '', clock = ''] = format.format(Math.floor(tUs / SECOND) * 1000).split(/,? /);
  return [day, clock];
}

/** When it was, as exactly as it was recorded. */
export function momentOf(tUs: number, zone: string): string {
  const [, clock] = dayAndClock(tUs, zone, 'en-GB');
  const digits = microsOf(tUs);
  const fraction = digits === '000000' ? '' : `.${digits.endsWith('000') ? digits.slice(0, 3) : digits}`;
  return `${dayText(tUs, zone)} ${clock}${fraction}`;
}

type Shown = Pick<Tag, 'decimals' | 'states' | 'value_type'>;

/** A value as people read it; a Bad one as its quality. */
export function cellText(cell: SampleCell, tag: Shown): string {
  if (cell.value === null) return isBad(cell.quality) && cell.how !== 'none' ? common.bad : '–';
  const text = scalarText(cell.value, tag);
  return isUncertain(cell.quality) ? `${text} ?` : text;
}

export function scalarText(value: Scalar, tag: Shown): string {
  const number = typeof value === 'boolean' ? Number(value) : value;
  const state = tag.value_type === 'text' ? undefined : tag.states[String(number)];
  return state ?? valueText(value, tag.value_type === 'float' ? tag.decimals : 0);
}

/** What is missing, for how long and why. */
export function gapText(gap: SampleGap): string {
  const length = lengthText(Number(gap.end_us) - Number(gap.start_us));
  const why = gap.detail === '' ? reasonText(gap.reason) : `${reasonText(gap.reason)} (${gap.detail})`;
  return fill(wording.noSamplesForLengthWhy, { length, why });
}
