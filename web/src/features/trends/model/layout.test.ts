import { describe, expect, it } from 'vitest';
import { HOUR } from '../../../domain/time';
import {
  changed,
  editable,
  higher,
  kept,
  movedStrip,
  ONE_STRIP,
  parseStrips,
  pensOf,
  rowsOf,
  stripsText,
  withPen,
  type Strip,
} from './layout';

const [A, B, C] = ['a', 'b', 'c'].map((end) => `00000000-0000-0000-0000-00000000000${end}`) as [
  string,
  string,
  string,
];
const AIR: Strip = { ...ONE_STRIP, title: 'Air', pens: [A, B], share: 2 };
const PAST: Strip = {
  ...ONE_STRIP,
  beside: true,
  pens: [A],
  window: { lengthUs: HOUR, endUs: 1_795_000_000_000_000 },
};

describe('the strips of a sheet', () => {
  it('come back from a link as they were', () => {
    expect(parseStrips(stripsText([AIR, PAST, ONE_STRIP]))).toEqual([AIR, PAST, ONE_STRIP]);
    expect(stripsText([])).toBeNull();
  });

  it('take defaults for what cannot be used', () => {
    expect(parseStrips('no list')).toEqual([]);
    expect(parseStrips('[null, {"share": 900, "pens": ["x", 5], "last": "PT0S"}]')).toEqual([
      ONE_STRIP,
      { ...ONE_STRIP, share: 5, pens: [] },
    ]);
  });

  it('lie in rows, and beside each other', () => {
    expect(rowsOf([AIR, PAST, ONE_STRIP])).toEqual([[0, 1], [2]]);
    expect(rowsOf([PAST])).toEqual([[0]]);
  });

  it('show every pen somewhere', () => {
    expect(pensOf([AIR, ONE_STRIP], [A, B, C])).toEqual([[A, B], [C]]);
    expect(pensOf([{ ...AIR, pens: [B] }, PAST], [A, B, C])).toEqual([[B, C], [A]]);
    expect(pensOf([ONE_STRIP, { ...ONE_STRIP, beside: true }], [A])).toEqual([[A], [A]]);
  });

  it('are changed one at a time', () => {
    expect(withPen([AIR], 0, C, true)[0]?.pens).toEqual([A, B, C]);
    expect(withPen([AIR], 0, A, false)[0]?.pens).toEqual([B]);
    expect(changed([AIR, PAST], 1, { title: 'Yesterday' })[1]?.title).toBe('Yesterday');
    expect(higher(higher([AIR], 0, -0.1), 0, -0.1)[0]?.share).toBe(1.8);
    expect(higher([AIR], 0, 9)[0]?.share).toBe(5);
    expect(movedStrip([AIR, PAST], 1, -1)).toEqual([{ ...PAST, beside: false }, AIR]);
    expect(movedStrip([AIR], 0, 1)).toEqual([AIR]);
    expect(kept(editable([]))).toEqual([]);
    expect(kept([AIR])).toEqual([AIR]);
  });
});
