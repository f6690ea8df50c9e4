/** What is said of reports. */
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import type { Report } from '../../../entities/reports';

/** Percent; what is not whole is never rounded up to 100. */
export function percentText(value: number | null): string {
  if (value === null) return '–';
  return value >= 100 ? '100 %' : `${Math.min(value, 99.9).toFixed(1)} %`;
}

/** What a report is of, in words. */
export function reportWords({
  every,
  kind,
  lines,
  enabled,
}: Pick<Report, 'every' | 'kind' | 'lines' | 'enabled'>): string {
  const figures = fill(wording.countFiguresOfKind, { count: lines.length, kind });
  return `${enabled ? fill(wording.eachEvery, { every }) : common.switchedOff}, ${figures}`;
}
