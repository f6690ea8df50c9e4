import { describe, expect, it } from 'vitest';
import { contrast, LEAST_DRAWN } from './contrast';
import { TOKENS } from '../tokens';

describe('the contrast of two colours', () => {
  it('is 21 of black on white, and 4.54 of #767676, the lightest grey that text may have on white', () => {
    // WCAG 2.2, "contrast ratio"; the grey: common practice, worked out from the formula.
    expect(contrast('#000000', '#FFFFFF')).toBeCloseTo(21, 6);
    expect(contrast('#FFFFFF', '#767676')).toBeCloseTo(4.54, 2);
    expect(contrast('#123456', '#123456')).toBe(1);
  });

  it('is enough for each pen of both themes', () => {
    for (const { pens, surface } of Object.values(TOKENS)) {
      for (const pen of pens) expect(contrast(pen, surface)).toBeGreaterThanOrEqual(LEAST_DRAWN);
    }
  });
});
