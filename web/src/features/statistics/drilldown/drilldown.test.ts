import { describe, expect, it } from 'vitest';
import {
  bandsOf,
  barsOf,
  boxPlaces,
  dotsOf,
  inOrder,
  offWords,
  pairsOf,
  picturesOf,
  relationText,
  type Drilldown,
} from './drilldown';

const found: Drilldown = {
  window: { start_us: '0', end_us: '100', start_local: '', end_local: '' },
  unit: '%',
  starts_us: ['0', '50'],
  low: 0,
  high: 10,
  over_time: [
    { tag: 'a', values: [2, null], places: ['normal', 'no value'] },
    { tag: 'b', values: [5, 10], places: ['above', 'far above'] },
  ],
  bands: [{ low: -1, centre: 2, high: 4, learnt_from: 3 }, null],
  boxes: [
    { tag: 'a', low: 0, lower_quartile: 1, median: 2, upper_quartile: 3, high: 4 },
    { tag: 'b', low: 2, lower_quartile: 4, median: 5, upper_quartile: 6, high: 8 },
  ],
  edges: [],
  shares: [],
  parts: [],
  timelines: [],
};

describe('bars of a figure over time', () => {
  it('stand on one scale; what has no figure has no bar', () => {
    const [only, ...others] = barsOf(found, 0);
    expect(others).toEqual([]);
    expect(only).toMatchObject({ y: 0, height: 0.2, off: false });
    expect(only?.x).toBeCloseTo(0.075);
    expect(barsOf(found, 1).map((one) => [one.height, one.off])).toEqual([
      [0.5, true],
      [1, true],
    ]);
    expect(barsOf(found, 7)).toEqual([]);
  });

  it('have what is normal behind, cut at the scale', () => {
    expect(bandsOf(found)).toEqual([{ x: 0, width: 0.5, y: 0, height: 0.4 }]);
  });

  it('tell in words what is off, and the odd one comes first', () => {
    expect([offWords(found, 0), offWords(found, 1)]).toEqual(['normal', 'not normal in 2 of 2']);
    expect([inOrder(found, true), inOrder(found, false)]).toEqual([
      [1, 0],
      [0, 1],
    ]);
  });
});

describe('stretches that an end of the window cuts short', () => {
  const places: Drilldown['over_time'][number]['places'] = ['above', 'above', 'normal', 'below'];
  const cut = (starts: string[]): Drilldown => ({
    ...found,
    starts_us: starts,
    over_time: [{ tag: 'a', values: [1, 1, 1, 1], places }],
  });
  it('are not counted: a live window and the one that is held count the same whole ones', () => {
    expect(offWords(cut(['0', '10', '50', '90']), 0)).toBe('not normal in 1 of 2');
    expect(offWords(cut(['0', '25', '50', '75']), 0)).toBe('not normal in 3 of 4');
  });
});

describe('pictures', () => {
  it('are those that have a meaning', () => {
    expect(picturesOf(found)).toEqual(['over time', 'spread', 'scatter']);
  });

  it('have boxes on one scale', () => {
    expect(boxPlaces(found, 'b')).toEqual({ low: 0.25, lower: 0.5, median: 0.625, upper: 0.75, high: 1 });
    expect(boxPlaces(found, 'c')).toBeNull();
  });
});

describe('scatter', () => {
  const window = { start_us: '0', end_us: '30', start_local: '', end_local: '' };
  const pair = { x: 'a', y: 'b', xs: [0, 5, null], ys: [10, 20, 30], correlation: 0.987 };
  const scatter = {
    window,
    times_us: ['0', '10', '20'],
    unit_x: '%',
    unit_y: 'bar',
    pairs: [pair],
    low_x: 0,
    high_x: 10,
    low_y: 0,
    high_y: 40,
  };

  it('has a dot where both have a value, the later the darker', () => {
    expect(dotsOf(scatter, pair)).toEqual([
      { key: '0', x: 0, y: 0.25, age: 0 },
      { key: '10', x: 0.5, y: 0.5, age: 0.5 },
    ]);
    expect(relationText(pair)).toBe('r 0.99');
    expect(relationText({ correlation: null })).toBe('one of them is constant');
  });

  it('is of pieces that have both', () => {
    const other = { name: 'Jam', unit: '', value_type: 'float', decimals: 0, tags: ['x1', null] };
    const pieces = [
      { name: 'Line 1', tag: 'a1' },
      { name: 'Line 2', tag: 'a2' },
    ];
    expect(pairsOf({ pieces }, { equipment: ['Line 1', 'Line 2'] }, other)).toEqual([
      { name: 'Line 1', x: 'a1', y: 'x1' },
    ]);
  });
});
