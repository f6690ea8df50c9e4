import { describe, expect, it } from 'vitest';
import type { Tag } from '../../../platform/client';
import type { Curve } from '../../../entities/curves';
import { blankAt, drawnAt, shortName, traces } from './model';
import { limitsFromTags, scaleOf, sharedScales } from './scales';

const tag: Tag = {
  uid: 'a',
  name: 'Line 1 Press head pressure',
  description: '',
  value_type: 'float',
  unit: 'bar',
  range_low: 60,
  range_high: 150,
  decimals: 1,
  stepped: false,
  equipment: 'Line 1/Press',
  source: 's',
  colour: '',
  states: {},
  recorded: [],
  writable: false,
};

function curve(
  t: number[],
  v: number[],
  q: number[],
  gaps: Curve['details']['gaps'] = [],
  known = 100,
): Curve {
  const details = {
    tag: 'a',
    value_type: 'float',
    stepped: false,
    samples: t.length,
    reduced: false,
    known_until_us: String(known),
    last_us: null,
    recorded_since_us: '0',
    bucket_us: 0,
    archive: 1,
    gaps,
  };
  return { details, t: Float64Array.from(t), v: Float64Array.from(v), q: Uint16Array.from(q) };
}

function trace(c: Curve, tail?: { t: number[]; v: number[]; q: number[] }, known = 0) {
  const tails = new Map(tail === undefined ? [] : [['a@1', { tag: 'a', archive: 1, ...tail }]]);
  const found = traces([tag], new Map([['a', c]]), { ...NOTHING_LIVE, tails, knownUntilUs: known })[0];
  if (found === undefined) throw new Error('no trace');
  return found;
}

describe('a trace', () => {
  it('goes on with live samples behind the curve, each once', () => {
    const found = trace(curve([10, 20], [1, 2], [0, 0]), { t: [20, 30], v: [9, 3], q: [0, 0] }, 130);
    expect([...found.columns.t]).toEqual([10, 20, 30]);
    expect([...found.columns.v]).toEqual([1, 2, 3]);
    expect(found.heldUntilUs).toBe(130);
  });

  it('takes live samples of its own archive alone', () => {
    const other = { tag: 'a', archive: 2, t: [30, 40], v: [7, 7], q: [0, 0] };
    const live = { ...NOTHING_LIVE, tails: new Map([['a@2', other]]), knownUntilUs: 130 };
    const [found] = traces([tag], new Map([['a', curve([10, 20], [1, 2], [0, 0])]]), live);
    expect([...(found?.columns.t ?? [])]).toEqual([10, 20]);
  });

  it('is held for longer where its source is known for longer than the slowest one', () => {
    const live = { ...NOTHING_LIVE, knownUntilUs: 130, ahead: new Map([['a', 170]]) };
    const [found] = traces([tag], new Map([['a', curve([10, 20], [1, 2], [0, 0])]]), live);
    expect(found?.heldUntilUs).toBe(170);
  });

  it('knows of bad values that came in live, before the curve says so', () => {
    const tail = { t: [30, 110, 120, 130, 150], v: [3, NaN, NaN, 4, NaN], q: [0, 0x8031, 0x8031, 0, 0x8031] };
    const found = trace(curve([10], [1], [0]), tail, 160);
    const bad = { reason: 'bad_values', detail: '' };
    expect(found.blanks).toEqual([
      { ...bad, startUs: 110, endUs: 130 },
      { ...bad, startUs: 150, endUs: 160 },
    ]);
    const since = trace(curve([10, 20], [1, NaN], [0, 0x8031]), { t: [140], v: [5], q: [0] }, 160);
    expect(since.blanks).toEqual([{ ...bad, startUs: 100, endUs: 140 }]);
  });

  it('shows the nearest recorded value, none where bad or not yet known', () => {
    const found = trace(curve([10, 20, 30], [1, NaN, 3], [0, 0x8031, 0]));
    expect([5, 12, 25, 40, 101].map((at) => drawnAt(found, at))).toEqual([null, 1, null, 3, null]);
  });

  it('knows why there is nothing', () => {
    const gap = { start_us: '20', end_us: '30', reason: 'source_down', detail: 'Bad, no communication' };
    const found = trace(curve([10, 20, 30], [1, NaN, 3], [0, 0x8031, 0], [gap]));
    expect(blankAt(found, 25)?.reason).toBe('source_down');
    expect(blankAt(found, 35)).toBeNull();
  });

  it('says that values are bad now, before the curve is read anew', () => {
    const found = trace(curve([10], [1], [0]), { t: [110], v: [NaN], q: [0x8031] }, 120);
    expect(blankAt(found, 115)).toMatchObject({ startUs: 110, reason: 'bad_values' });
  });

  it('takes what live samples have told out of "not yet known"', () => {
    const gap = { start_us: '100', end_us: '200', reason: 'not_yet_known', detail: '' };
    expect(trace(curve([10], [1], [0], [gap]), undefined, 150).blanks).toMatchObject([
      { startUs: 150, endUs: 200 },
    ]);
    expect(trace(curve([10], [1], [0], [gap]), undefined, 250).blanks).toEqual([]);
  });
});

describe('a pen that is no recorded tag', () => {
  const memory = { tag: 'a', archive: 0, t: [10, 20], v: [1, 2], q: [0, 0] };

  it('is drawn from what came in while the page was open', () => {
    const live = { ...NOTHING_LIVE, memories: new Map([['a', memory]]), knownUntilUs: 30 };
    const [found] = traces([{ ...tag, recorded: [] }], new Map(), live);
    expect([...(found?.columns.v ?? [])]).toEqual([1, 2]);
    const recorded = { logger: 'l', archive: 'p', mode: 'on_change', interval_us: 0 };
    const [kept] = traces([{ ...tag, recorded: [recorded] }], new Map(), live);
    expect(kept?.columns.v.length).toBe(0);
  });

  it('says whether a formula or records made it, and from thinned samples', () => {
    const pen = { ...FORMULA, logger: '' };
    const c = curve([10], [1], [0]);
    const thinned = { ...c, details: { ...c.details, reduced: true } };
    const [made] = traces([tag], new Map([['a', thinned]]), NOTHING_LIVE, {}, { a: pen });
    expect([made?.origin, made?.thinned]).toEqual(['formula', true]);
    const [record] = traces([tag], new Map([['a', c]]), NOTHING_LIVE, {}, { a: { ...pen, logger: 'x' } });
    expect([record?.origin, record?.thinned]).toEqual(['records', false]);
  });
});

const FORMULA = { name: 'n', unit: '', low: 0, high: 1, formula: 'x', inputs: {}, column: 0 };

describe('a scale', () => {
  const span = { startUs: 0, endUs: 100 };

  it("is the tag's own range, or fits what is visible with some air", () => {
    const found = trace(curve([10, 20], [97, 99], [0, 0]));
    expect(scaleOf(found, span, false)).toEqual({ low: 60, high: 150 });
    const { low, high } = scaleOf(found, span, true);
    expect(low).toBeLessThan(97);
    expect(low).toBeGreaterThan(95);
    expect(high).toBeGreaterThan(99);
    expect(high).toBeLessThan(101);
  });

  it('does not blow a constant up to noise, and falls back to the range without values', () => {
    const { low, high } = scaleOf(trace(curve([10], [98], [0])), span, true);
    expect(high - low).toBeGreaterThanOrEqual(0.9);
    expect(scaleOf(trace(curve([], [], [])), span, true)).toEqual({ low: 60, high: 150 });
  });
});

const NOTHING_LIVE = { tails: new Map(), memories: new Map(), knownUntilUs: 0, ahead: new Map() };

it('the short name leaves the line away', () => {
  expect(shortName(tag)).toBe('Press head pressure');
  const other = { ...tag, uid: 'b', name: 'Line 2 Press head pressure', equipment: 'Line 2/Press' };
  const names = (chosen: Tag[]) => traces(chosen, new Map(), NOTHING_LIVE).map((trace) => trace.name);
  expect(names([tag])).toEqual(['Press head pressure']);
  expect(names([tag, other])).toEqual(['Line 1 Press head pressure', 'Line 2 Press head pressure']);
});

describe('a scale', () => {
  const whole = { startUs: 0, endUs: 100 };
  const limit = (uid: string, t: number[], v: number[], q: number[]) => ({
    ...trace(curve(t, v, q)),
    tag: { ...tag, uid },
  });
  const bad = 0x8000;

  it('takes its ends from tags as they are where the window ends', () => {
    const ends = [limit('low', [10, 50], [1, 2], [0, 0]), limit('high', [10], [9], [0])];
    const others = new Map(ends.map((one) => [one.tag.uid, one]));
    const pen = trace(curve([10], [5], [0]));
    expect(scaleOf(pen, whole, true, { lowTag: 'low', highTag: 'high' }, others)).toEqual({
      low: 2,
      high: 9,
    });
    expect(scaleOf(pen, { startUs: 0, endUs: 40 }, false, { highTag: 'high' }, others)).toEqual({
      low: 60,
      high: 150,
      staleUs: 0,
    });
  });

  it('stays as it was when the limits are bad or upside down, and says since when', () => {
    const low = limit('low', [10, 50, 70], [1, 20, NaN], [0, 0, bad]);
    const high = limit('high', [10], [9], [0]);
    expect(limitsFromTags(low, high, 60)).toEqual({ low: 1, high: 9, staleUs: 10 });
    expect(limitsFromTags(low, high, 90)).toEqual({ low: 1, high: 9, staleUs: 10 });
    expect(limitsFromTags(low, high, 5)).toBeNull();
    expect(limitsFromTags(null, high, 60)).toBeNull();
  });

  it('begins above 0 when it is logarithmic', () => {
    const pen = trace(curve([10], [5], [0]));
    expect(scaleOf(pen, whole, false, { low: 0, high: 1000, log: true })).toEqual({
      low: 1,
      high: 1000,
      log: true,
    });
    expect(scaleOf(pen, whole, false, { low: 5, high: 50, log: true })).toEqual({
      low: 5,
      high: 50,
      log: true,
    });
  });
});

describe('a scale that pens share', () => {
  const own = new Map([
    ['a', { low: 0, high: 10 }],
    ['b', { low: 4, high: 30 }],
    ['c', { low: -5, high: 5 }],
  ]);
  const looks = { a: {}, b: { scaleOf: 'a' }, c: {} };

  it('is that of the pen which the others name', () => {
    const found = sharedScales(own, looks, false);
    expect([...found.values()]).toEqual([own.get('a'), own.get('a'), own.get('c')]);
  });

  it('is fitted to all of them where scales are fitted, unless its ends are set', () => {
    expect(sharedScales(own, looks, true).get('b')).toEqual({ low: 0, high: 30 });
    expect(sharedScales(own, looks, true).get('a')).toEqual({ low: 0, high: 30 });
    const set = { ...looks, a: { low: 0, high: 10 } };
    expect(sharedScales(own, set, true).get('b')).toEqual({ low: 0, high: 10 });
  });
});
