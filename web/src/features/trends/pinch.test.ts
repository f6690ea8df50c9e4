import { describe, expect, it } from 'vitest';
import { stretched } from './pinch';

describe('two fingers', () => {
  const moments = { startUs: 100, endUs: 200 };

  it('keep the moments that they were put on beneath them', () => {
    const window = stretched(moments, 0.25, 0.75);
    expect(window).toEqual({ startUs: 50, endUs: 250 });
    expect(stretched(moments, 0, 1)).toEqual(moments);
  });

  it('that meet do not make the window endless', () => {
    const { startUs, endUs } = stretched(moments, 0.5, 0.5);
    expect(endUs - startUs).toBeCloseTo(5000);
  });
});
