import { describe, expect, it } from 'vitest';
import { HOUR } from '../../../domain/time';
import {
  changed,
  copiedStrip,
  editable,
  higher,
  kept,
  movedStrip,
  movedTo,
  ONE_STRIP,
  parseStrips,
  pensOf,
  rowsOf,
  spanOfStrip,
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
  window: { lengthUs: HOUR, end: { kind: 'moment', atUs: 1_795_000_000_000_000 } },
};

describe('the strips of a sheet', () => {
  it('come back from a link as they were', () => {
    expect(parseStrips(stripsText([AIR, PAST, ONE_STRIP]))).toEqual([AIR, PAST, ONE_STRIP]);
    expect(stripsText([])).toBeNull();
  });

  it.each([
    [{ kind: 'now' }, 10 * HOUR],
    [{ kind: 'before', us: HOUR }, 7 * HOUR],
    [{ kind: 'before', us: 0 }, 8 * HOUR],
    [{ kind: 'moment', atUs: 3 * HOUR }, 3 * HOUR],
  ] as const)('lie in time by an end of their own, or by that of the sheet: %j', (end, endUs) => {
    const sheet = { startUs: 6 * HOUR, endUs: 8 * HOUR };
    const strip = { ...ONE_STRIP, window: { lengthUs: 2 * HOUR, end } };
    expect(parseStrips(stripsText([strip, AIR]))[0]).toEqual(strip);
    expect(spanOfStrip(strip.window, sheet, 10 * HOUR)).toEqual({ startUs: endUs - 2 * HOUR, endUs });
  });

  it('hang on the end of the sheet still when they are moved by hand', () => {
    const sheet = { startUs: 6 * HOUR, endUs: 8 * HOUR };
    const own = { lengthUs: HOUR, end: { kind: 'before', us: HOUR } } as const;
    const to = { startUs: 3 * HOUR, endUs: 5 * HOUR };
    expect(movedTo(own, to, sheet)).toEqual({ lengthUs: 2 * HOUR, end: { kind: 'before', us: 3 * HOUR } });
    expect(movedTo({ ...own, end: { kind: 'now' } }, to, sheet)).toEqual({
      lengthUs: 2 * HOUR,
      end: { kind: 'moment', atUs: 5 * HOUR },
    });
  });

  it('of links of the version before mean the same', () => {
    const old = '[{"last":"PT1H","to":"2026-11-18T10:26:40.000000Z"},{"beside":true,"last":"PT2H"}]';
    expect(parseStrips(old).map((strip) => strip.window)).toEqual([
      { lengthUs: HOUR, end: { kind: 'moment', atUs: 1_794_997_600_000_000 } },
      { lengthUs: 2 * HOUR, end: { kind: 'now' } },
    ]);
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

  it('are copied with all they have, below themselves', () => {
    const strips = [{ ...ONE_STRIP, title: 'Air', markers: true, beside: true }, ONE_STRIP];
    expect(copiedStrip(strips, 0)).toEqual([strips[0], { ...strips[0], beside: false }, ONE_STRIP]);
  });

  it('are kept where a single one has something of its own', () => {
    expect(kept([{ ...ONE_STRIP, share: 2 }])).toEqual([]);
    expect(kept([{ ...ONE_STRIP, grid: false }])).toHaveLength(1);
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
