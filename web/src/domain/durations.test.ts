import { describe, expect, it } from 'vitest';
import { parseWritten, written } from './durations';

describe('durations as people write them', () => {
  it.each([
    ['500 ms', 500_000],
    ['1.5 s', 1_500_000],
    ['1,5s', 1_500_000],
    ['10', 10_000_000],
    ['10 min', 600_000_000],
    ['2 H', 7_200_000_000],
    ['30 d', 2_592_000_000_000],
  ])('%s is %i µs', (text, us) => expect(parseWritten(text)).toBe(us));

  it.each(['', 'soon', '-1 s', '1 m', '1 s 2'])('%s is none', (text) =>
    expect(parseWritten(text)).toBeNull(),
  );

  it.each([
    [90_000_000, '90 s'],
    [120_000_000, '2 min'],
    [1_500_000, '1500 ms'],
    [86_400_000_000, '1 d'],
  ])('%i µs is written %s', (us, text) => {
    expect(written(us)).toBe(text);
    expect(parseWritten(text)).toBe(us);
  });
});
