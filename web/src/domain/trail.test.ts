import { describe, expect, it } from 'vitest';
import { joined, lengthened, NO_TRAIL, numberOf } from './trail';
import { trailPath } from './trailPath';

const PLACE = { startUs: 0, endUs: 100, width: 100, height: 20, least: 0, isStepped: false };

describe('a trail', () => {
  it('grows by what comes in, and loses what is too old but for the one that holds on', () => {
    const grown = [0, 10, 20, 30].reduce((trail, t) => lengthened(trail, t, t, t - 15), NO_TRAIL);
    expect(grown).toEqual({ t: [10, 20, 30], v: [10, 20, 30] });
    expect(lengthened(grown, 30, 5, 0)).toBe(grown);
  });

  it('is joined to what was read', () => {
    const read = { t: [1, 2], v: [1, 2] };
    expect(joined(read, { t: [2, 3], v: [9, 3] })).toEqual({ t: [1, 2, 3], v: [1, 2, 3] });
    expect(joined(read, NO_TRAIL)).toBe(read);
  });

  it('has no course of texts', () => {
    expect(numberOf('Spaghetti')).toBeNull();
    expect(numberOf('9007199254740993')).toBeGreaterThan(9e15);
    expect(numberOf(true)).toBe(1);
    expect(numberOf(null)).toBeNaN();
  });
});

describe('its picture', () => {
  it('reaches from its lowest to its highest value, and to now', () => {
    expect(trailPath({ t: [0, 50], v: [1, 3] }, PLACE)).toBe('M0.0 20.0L50.0 0.0H100.0');
  });

  it('goes in steps, and is broken where the value was Bad', () => {
    const trail = { t: [0, 20, 40, 60], v: [0, NaN, 1, 0] };
    expect(trailPath(trail, { ...PLACE, isStepped: true })).toBe('M0.0 20.0H20.0M40.0 0.0H60.0V20.0H100.0');
  });

  it('lies in the middle where it does not move, and makes little of noise', () => {
    expect(trailPath({ t: [0], v: [5] }, { ...PLACE, least: 10 })).toBe('M0.0 10.0H100.0');
    expect(trailPath({ t: [0, 50], v: [5, 6] }, { ...PLACE, least: 10 })).toBe('M0.0 11.0L50.0 9.0H100.0');
  });

  it('begins with the value that holds when it does, and is empty without values', () => {
    expect(trailPath({ t: [-90, -10, 50], v: [7, 1, 3] }, PLACE)).toBe('M0.0 20.0L50.0 0.0H100.0');
    expect(trailPath({ t: [0], v: [NaN] }, PLACE)).toBe('');
    expect(trailPath(NO_TRAIL, PLACE)).toBe('');
  });
});
