/** Cells of a record as text. */
import * as common from 'texts/common.json';
import { valueText } from '../../domain/format';
import { clockText, dayText, SECOND } from '../../domain/time';
import type { RecordColumn, RecordLine } from '../../entities/records';

/** When it was taken; to the millisecond where it was not on the second. */
export function moment(record: RecordLine, zone: string): string {
  const us = Number(record.t_us);
  return `${dayText(us, zone)} ${clockText(us, zone, us % SECOND === 0 ? SECOND : 1)}`;
}

/** A value with its tag's decimals, or with chosen ones; empty where it was not taken then. */
export function cell(
  record: RecordLine,
  column: RecordColumn,
  i: number,
  decimals: number = column.decimals,
): string {
  const value = record.values[i];
  if (value === null || value === undefined) return record.quality[i] == null ? '' : common.bad;
  return valueText(value, decimals);
}
