import { describe, expect, it } from 'vitest';
import { contrast, LEAST_DRAWN } from './contrast';
import { TOKENS } from '../tokens';

/** Of a text beside its ground (WCAG 2.2, 1.4.3, level AA). */
const LEAST_READ = 4.5;

describe('the contrast of two colours', () => {
  it('is 21 of black on white, and 4.54 of #767676, the lightest grey that text may have on white', () => {
    // WCAG 2.2, "contrast ratio"; the grey: common practice, worked out from the formula.
    expect(contrast('#000000', '#FFFFFF')).toBeCloseTo(21, 6);
    expect(contrast('#FFFFFF', '#767676')).toBeCloseTo(4.54, 2);
    expect(contrast('#123456', '#123456')).toBe(1);
  });

  it('is enough for each pen and each axis on every ground of both themes', () => {
    for (const { pens, surface, grounds, ink, quiet, accent } of Object.values(TOKENS)) {
      for (const ground of [surface, ...Object.values(grounds)]) {
        for (const pen of pens) expect(contrast(pen, ground)).toBeGreaterThanOrEqual(LEAST_DRAWN);
        for (const text of [ink, quiet, accent]) {
          expect(contrast(text, ground)).toBeGreaterThanOrEqual(LEAST_READ);
        }
      }
    }
  });
});
