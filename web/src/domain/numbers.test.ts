import { describe, expect, it } from 'vitest';
import { parseNumber } from './numbers';

describe('a number as it is typed', () => {
  it.each([
    ['1.5', 1.5],
    ['1,5', 1.5],
    [' -0.25 ', -0.25],
    ['.5', 0.5],
    ['5.', 5],
    ['1e3', 1000],
    ['+7', 7],
  ])('%s is %d', (text, number) => expect(parseNumber(text)).toBe(number));

  it.each(['', ' ', '5O3', '0x10', '1.2.3', '1.234,5', 'Infinity', '1e999', 'NaN', '1 000', '-'])(
    '%j is none',
    (text) => expect(parseNumber(text)).toBeNull(),
  );
});
