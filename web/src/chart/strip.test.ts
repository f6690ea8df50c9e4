import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../domain/time';
import { axisTimes, elapsedTicks, plotRows, valueAt } from './strip';

const START = Date.UTC(2026, 10, 12, 22, 50) * 1000;

describe('the axis of time', () => {
  const ticks = [START + 10 * MINUTE, START + 40 * MINUTE, START + 70 * MINUTE, START + 100 * MINUTE];

  it('says the day under the first tick, and where it changes', () => {
    expect(axisTimes(ticks, 'Etc/UTC').map((text) => text.includes('\n'))).toEqual([
      true,
      false,
      true,
      false,
    ]);
  });

  it('says day and clock at each tick where that is wanted', () => {
    expect(axisTimes(ticks, 'Etc/UTC', 'day').every((text) => text.includes('\n'))).toBe(true);
  });

  it('says the time since the start, at round ones', () => {
    const elapsed = elapsedTicks({ startUs: START + 7, endUs: START + HOUR + 7 }, 6);
    expect(axisTimes(elapsed, 'Europe/Rome', 'elapsed', START + 7).slice(1, 3)).toEqual(['10 min', '20 min']);
  });
});

describe('a plot in its chart', () => {
  it('has room for the times below it', () => {
    expect(plotRows({ height: 300, showTimes: false })).toEqual({ top: 10, height: 284 });
    expect(plotRows({ height: 300, showTimes: true })).toEqual({ top: 10, height: 250 });
  });

  it('has values at shares of a scale, also of a logarithmic one', () => {
    expect(valueAt({ low: 10, high: 30, log: false }, 0.25)).toBe(15);
    expect(valueAt({ low: 1, high: 100, log: true }, 0.5)).toBeCloseTo(10, 9);
  });
});
