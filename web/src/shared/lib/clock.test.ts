import { describe, expect, it } from 'vitest';
import { clockOf, minuteOf } from './clock';

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
