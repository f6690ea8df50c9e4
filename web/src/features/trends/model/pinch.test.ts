import { describe, expect, it } from 'vitest';
import { stretched, zoomOf } from './pinch';

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

describe('a wheel', () => {
  const turn = (deltaY: number, deltaMode = 0): number => zoomOf({ deltaY, deltaMode });
  it('lengthens by a quarter a click, and takes it back', () => {
    expect(turn(100)).toBeCloseTo(1.25);
    expect(turn(-100)).toBeCloseTo(0.8);
    expect(turn(3, 1)).toBeCloseTo(1.25);
  });
  it('does as much in one turn as in the parts that a browser under load puts together', () => {
    expect(turn(-200)).toBeCloseTo(turn(-100) * turn(-100));
    expect(turn(100 - 100)).toBe(1);
    expect(turn(100_000)).toBe(10);
  });
});
