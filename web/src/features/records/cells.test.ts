import { describe, expect, it } from 'vitest';
import { cell, moment } from './cells';
import type { RecordColumn, RecordLine } from '../../entities/records';

const column = (name: string, decimals: number): RecordColumn => ({
  name,
  tag: name,
  value_type: 'float',
  unit: '%',
  decimals,
  present: true,
  number: 1,
});
const COLUMNS = [column('Moisture', 1), column('Jam', 0), column('Lot', 0), column('Earlier', 0)];
const RECORD: RecordLine = {
  number: 12,
  t_us: '1795473330250000',
  reason: 'Lot number = 48201',
  values: [12.449, true, null, null],
  quality: [0, 0, 0x8000, null],
};

describe('cells of a record', () => {
  it('show values by their decimals, bad ones as such, and nothing where nothing was taken', () => {
    expect(COLUMNS.map((one, i) => cell(RECORD, one, i))).toEqual(['12.4', 'on', 'bad', '']);
  });

  it('tell the time to the millisecond only where it was not on the second', () => {
    expect(moment(RECORD, 'UTC')).toBe('Mon 23 Nov 22:35:30.250');
    expect(moment({ ...RECORD, t_us: '1795473330000000' }, 'UTC')).toBe('Mon 23 Nov 22:35:30');
  });
});
