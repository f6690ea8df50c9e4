import { describe, expect, it } from 'vitest';
import { logTicks, niceStep, niceTicks, tickText, valueText } from './format';

describe('values', () => {
  it("never show more digits than the tag's decimals", () => {
    expect(valueText(97.30000305, 1)).toBe('97.3');
    expect(valueText(null, 1)).toBe('–');
    expect(valueText(undefined, 1)).toBe('–');
    expect(valueText(true, 0)).toBe('on');
    expect(valueText('9223372036854775807', 0)).toBe('9223372036854775807');
  });
});

describe('an axis', () => {
  it.each([
    [100, 5, 20],
    [0.14, 7, 0.02],
    [3, 10, 0.5],
  ])('of span %d with at most %d ticks steps by %d', (span, most, step) => {
    expect(niceStep(span, most)).toBeCloseTo(step, 12);
  });

  it('has its ticks inside the scale, both ends included', () => {
    expect(niceTicks(60, 80, 4)).toEqual([60, 65, 70, 75, 80]);
    expect(niceTicks(0.1, 0.25, 3).map((v) => tickText(v, 0.05))).toEqual(['0.10', '0.15', '0.20', '0.25']);
  });

  it('that is logarithmic has round ticks, fewer where there is no room', () => {
    expect(logTicks(1, 100, 10)).toEqual([1, 2, 5, 10, 20, 50, 100]);
    expect(logTicks(0.5, 2000, 5)).toEqual([1, 10, 100, 1000]);
    expect(logTicks(60, 150, 5)).toEqual([60, 80, 100, 120, 140]);
  });
});
