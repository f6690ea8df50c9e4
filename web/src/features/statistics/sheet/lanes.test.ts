import { describe, expect, it } from 'vitest';
import { numberText } from '../../../entities/stats/labels';
import {
  lanesOf,
  limitsOf,
  shareOf,
  sheetText,
  unitText,
  usualLines,
  type Cell,
  type Kind,
  type Sheet,
} from './lanes';

const SORTED = { sorted: true, pieces: [] };

const KIND: Kind = {
  name: 'Line',
  equipment: ['Line 1', 'Line 2'],
  members: [
    { name: 'Press vacuum', unit: 'mbar', value_type: 'float', decimals: 1, tags: ['a1', 'a2'] },
    { name: 'Cutter jam', unit: '', value_type: 'boolean', decimals: 0, tags: ['b1', null] },
    { name: 'Lot number', unit: '', value_type: 'integer', decimals: 0, tags: ['c1', 'c2'] },
  ],
  equipment_class: null,
  card: [],
};

function cell(value: Cell['value'], more: Partial<Cell> = {}): Cell {
  return { tag: 'a1', value, unit: 'mbar', quality: 'Good', place: 'normal', position: 0, ...more } as Cell;
}

function sheet(rows: Cell[][]): Sheet {
  const window = { start_us: '0', end_us: '1', start_local: '', end_local: '' };
  return {
    now_us: '1',
    window,
    beside: null,
    rows: rows.map((cells, i) => ({ name: KIND.equipment[i] ?? '', cells, oddness: 0 })),
  };
}

const VACUUM = { member: 'Press vacuum', stat: 'TimeAverage2' };
const JAMS = { member: 'Cutter jam', stat: 'Starts' };

describe('lanes', () => {
  it('are by default what says most of each member', () => {
    expect(usualLines(KIND).map(({ member, stat }) => `${member} ${stat}`)).toEqual([
      'Press vacuum TimeAverage2',
      'Press vacuum StandardDeviationPopulation',
      'Press vacuum Travel',
      'Cutter jam Starts',
      'Cutter jam DurationInStateNonZero',
    ]);
  });

  it('place figures by half widths, and those beyond at their ends', () => {
    const found = sheet([
      [cell(80, { position: -2, place: 'below' })],
      [cell(99, { position: 9, place: 'far above' })],
    ]);
    const [lane] = lanesOf(KIND, [VACUUM], found, SORTED);
    expect(lane?.marks.map(({ at, beyond }) => [at, beyond])).toEqual([
      [0.25, false],
      [1, true],
    ]);
    expect(lane?.oddness).toBe(9);
  });

  it('place what is off a band without width at the end, and what is unknown nowhere', () => {
    const found = sheet([
      [cell(3, { position: null, place: 'above' })],
      [cell(null, { position: null, place: 'no value' })],
    ]);
    const [lane] = lanesOf(KIND, [JAMS], found, SORTED);
    expect(lane?.marks.map(({ at }) => at)).toEqual([1, null]);
    expect(lane?.oddness).toBe(2);
  });

  it('stand in the order of what stands out, or as chosen', () => {
    const found = sheet([
      [cell(80), cell(1)],
      [cell(80), cell(5, { position: 4, place: 'far above' })],
    ]);
    const order = (sorted: boolean): string[] =>
      lanesOf(KIND, [VACUUM, JAMS], found, { sorted, pieces: [] }).map(({ line }) => line.member);
    expect(order(true)).toEqual(['Cutter jam', 'Press vacuum']);
    expect(order(false)).toEqual(['Press vacuum', 'Cutter jam']);
  });

  it('leave out what no piece of the kind has', () => {
    const found = sheet([[cell(1)], [cell(1)]]);
    expect(lanesOf(KIND, [{ member: 'Gone', stat: 'Count' }], found, SORTED)).toEqual([]);
  });

  it('are of the chosen equipment, and of all where none of it is there any more', () => {
    const found = sheet([[cell(1)], [cell(2)]]);
    const of = (pieces: string[]): string[] =>
      lanesOf(KIND, [VACUUM], found, { sorted: true, pieces }).flatMap(({ marks }) =>
        marks.map(({ name }) => name),
      );
    expect(of(['Line 2'])).toEqual(['Line 2']);
    expect(of(['Line 9'])).toEqual(['Line 1', 'Line 2']);
  });

  it('mark the limits that all share, and what breaks one stands out', () => {
    const marks = { low: 10, high: 90, low_at: -3, high_at: 5, broken: '' } as const;
    const found = sheet([
      [cell(80, { limits: marks })],
      [cell(95, { limits: { ...marks, broken: 'high' } })],
    ]);
    const [lane] = lanesOf(KIND, [VACUUM], found, SORTED);
    if (lane === undefined) throw new Error('no lane');
    const limits = limitsOf(lane);
    expect([shareOf(limits?.low_at ?? null), shareOf(limits?.high_at ?? null)]).toEqual([0.125, null]);
    expect(lane.oddness).toBe(2);
    const other = sheet([[cell(80, { limits: marks })], [cell(1, { limits: { ...marks, low: 20 } })]]);
    expect(lanesOf(KIND, [VACUUM], other, SORTED).map(limitsOf)).toEqual([null]);
  });
});

describe('figures in words', () => {
  it('have the digits of their tag, and no figure is no zero', () => {
    expect(numberText(80.123, 'Maximum', 1)).toBe('80.1');
    expect(numberText(80.123, 'TimeAverage2', 1)).toBe('80.123');
    expect(numberText(12_345, 'DurationInStateNonZero', 0)).toBe('12.3');
    expect(numberText(null, 'Maximum', 1)).toBe('–');
    expect(numberText('9007199254740993', 'Count', 0)).toBe('9007199254740992');
    expect(unitText('DurationInStateNonZero', [cell(1)])).toBe('s');
    expect(unitText('Maximum', [cell(1, { unit: '' }), cell(1)])).toBe('mbar');
  });

  it('go into a file in full digits with their places', () => {
    const lanes = lanesOf(
      KIND,
      [VACUUM],
      sheet([[cell(80.123456)], [cell(null, { place: 'no value' })]]),
      SORTED,
    );
    expect(sheetText(lanes, KIND.equipment).split('\r\n')).toEqual([
      'Member,Statistic,Unit,Line 1,Line 2,"Line 1, place","Line 2, place"',
      'Press vacuum,Time-weighted mean,mbar,80.123456,,normal,no value',
    ]);
  });
});
