import { describe, expect, it } from 'vitest';
import { aheadOf, clockOf, minuteOf } from './clock';

describe('minutes of a day', () => {
  it('are written as on a clock', () => {
    expect([0, 360, 1439].map(clockOf)).toEqual(['00:00', '06:00', '23:59']);
  });

  it('are read as people write them', () => {
    expect(['6:00', '06.30', ' 23:59 '].map(minuteOf)).toEqual([360, 390, 1439]);
  });

  it('are none where the text is no time of the day', () => {
    expect(['24:00', '6', '6:60', 'noon', ''].map(minuteOf)).toEqual([null, null, null, null, null]);
  });
});

describe('another clock', () => {
  it('is ahead, or behind, by what its answer cannot explain otherwise', () => {
    expect(aheadOf(9_000, 1_000, 2_000)).toBe(7_000);
    expect(aheadOf(1_000, 8_000, 9_000)).toBe(-7_000);
  });

  it('is not called wrong by an answer that was slow', () => {
    expect(aheadOf(1_000, 900, 13_000)).toBe(0);
  });
});
