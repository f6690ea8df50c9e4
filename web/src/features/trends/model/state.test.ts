import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE, SECOND } from '../../../domain/time';
import { lastOf } from '../../../domain/windows';
import { USUAL } from './display';
import { ONE_STRIP } from './layout';
import {
  DEFAULT_LENGTH_US,
  MOST_TAGS,
  parseState,
  rangeOf,
  stateParams,
  stepped,
  zoomed,
  type TrendState,
} from './state';

const A = '00000000-0000-0000-0000-00000000000a';
const B = '00000000-0000-0000-0000-00000000000b';

const ZONES = { name: 'Spread', unit: '°C', low: 0, high: 5, formula: 'x - 1', logger: '', column: 0 };

describe('the address of a trend', () => {
  it.each<TrendState>([
    {
      tags: [A, B],
      window: { kind: 'last', lengthUs: 2 * HOUR, agoUs: 30 * MINUTE },
      selected: B,
      hidden: [A],
      scales: 'percent',
      a: 1_795_000_000_000_001,
      b: 1_795_000_050_000_000,
      looks: { [A]: { low: 1, high: 2, lines: [1.5] } },
      ghostUs: 86_400 * SECOND,
      sheet: B,
      strips: [
        { ...ONE_STRIP, title: 'Air', pens: [A], markers: true },
        { ...ONE_STRIP, beside: true, grid: false },
      ],
      large: true,
      display: { ...USUAL, times: 'elapsed', card: ['archive', 'scale'], drawer: false, area: true },
      made: { [B]: { ...ZONES, inputs: { x: A } } },
      refresh: { everyUs: 60 * SECOND },
      allow: ['time'],
    },
    {
      tags: null,
      window: { kind: 'fixed', startUs: 1_795_000_000_000_001, endUs: 1_795_000_060_000_000 },
      selected: null,
      hidden: [],
      scales: 'own',
      a: null,
      b: null,
      looks: {},
      ghostUs: 0,
      sheet: null,
      strips: [],
      large: false,
      display: USUAL,
      made: {},
      refresh: { tag: A, edge: 'level' },
      allow: [],
    },
    {
      tags: [],
      window: { kind: 'unit', unit: 'week', which: 'this' },
      selected: null,
      hidden: [],
      scales: 'own',
      a: null,
      b: null,
      looks: {},
      ghostUs: 0,
      sheet: null,
      strips: [],
      large: false,
      display: USUAL,
      made: {},
      refresh: null,
      allow: null,
    },
  ])('gives back what was put in', (state) => {
    expect(parseState(stateParams(state))).toEqual({
      ...state,
      tags: state.tags?.length === 0 ? [] : state.tags,
    });
  });

  it.each([
    'last=PT0S',
    'last=P900000D',
    'last=nonsense',
    'from=2026-01-02T00:00:00Z&to=2026-01-01T00:00:00Z',
    'from=x&to=y',
  ])('falls back to the default window for %s', (query) => {
    expect(parseState(new URLSearchParams(query)).window).toEqual(lastOf(DEFAULT_LENGTH_US));
  });

  it('drops what is no uid, doubles, and too many', () => {
    const many = Array.from({ length: 50 }, (_, i) => A.slice(0, -2) + String(i).padStart(2, '0'));
    expect(parseState(new URLSearchParams(`tags=${A},x,${A},<script>`)).tags).toEqual([A]);
    expect(parseState(new URLSearchParams(`tags=${many.join(',')}`)).tags).toHaveLength(MOST_TAGS);
  });
});

describe('a window', () => {
  const span = { startUs: 1000 * SECOND, endUs: 1060 * SECOND };

  it('steps by a share of its length', () => {
    expect(stepped(span, -1)).toEqual({ kind: 'fixed', startUs: 940 * SECOND, endUs: 1000 * SECOND });
  });

  it('zooms around a moment that stays where it is', () => {
    const at = 1015 * SECOND;
    const zoom = zoomed(span, 0.5, at);
    expect(zoom).toEqual({ kind: 'fixed', startUs: 1007.5 * SECOND, endUs: 1037.5 * SECOND });
  });
});

describe('a range', () => {
  const span = { startUs: 0, endUs: 100 };

  it('lies between both cursors, whichever comes first, or is the whole window', () => {
    expect(rangeOf({ a: 40, b: 10 }, span)).toEqual({ startUs: 10, endUs: 40 });
    expect(rangeOf({ a: 40, b: null }, span)).toEqual(span);
    expect(rangeOf({ a: 40, b: 40 }, span)).toEqual(span);
  });
});
