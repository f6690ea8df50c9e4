import { describe, expect, it } from 'vitest';
import { isBad, isUncertain } from '../domain/quality';
import { extent, indexAt, shareOf } from './curve';

const columns = {
  t: Float64Array.of(0, 10, 20, 30),
  v: Float64Array.of(5, NaN, 2, 9),
  q: Uint16Array.of(0, 0x8000, 0x4000, 0),
};

describe('columns', () => {
  it('are found by time', () => {
    expect([-1, 0, 9, 10, 35].map((t) => indexAt(columns.t, t))).toEqual([-1, 0, 0, 1, 3]);
  });

  it('have an extent that leaves bad values out and takes the held one at the left edge', () => {
    expect(extent(columns, 5, 25)).toEqual({ low: 2, high: 5 });
    expect(extent(columns, 10, 15)).toBeNull();
  });

  it('tell bad from uncertain', () => {
    expect([...columns.q].map(isBad)).toEqual([false, true, false, false]);
    expect([...columns.q].map(isUncertain)).toEqual([false, false, true, false]);
  });
});

describe('a place on a scale', () => {
  it('is linear, or logarithmic with what a logarithm cannot show below it', () => {
    expect(shareOf({ low: 50, high: 100, log: false }, 75)).toBe(0.5);
    expect(shareOf({ low: 1, high: 100, log: true }, 10)).toBeCloseTo(0.5, 12);
    expect(shareOf({ low: 1, high: 100, log: true }, 0)).toBeLessThan(0);
    expect(Number.isFinite(shareOf({ low: 1, high: 100, log: true }, -5))).toBe(true);
  });
});
