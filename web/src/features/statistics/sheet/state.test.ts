import { describe, expect, it } from 'vitest';
import { HOUR } from '../../../domain/time';
import { lastOf } from '../../../domain/windows';
import { parseSheet, sheetParams, WITHOUT_SHIFTS, type SheetState } from './state';

const through = (state: SheetState): SheetState =>
  parseSheet(new URLSearchParams(sheetParams(state).toString()));

const PLAIN: SheetState = parseSheet(new URLSearchParams());

describe('a sheet in a link', () => {
  it('has defaults', () => {
    expect(PLAIN).toEqual({
      form: 'lanes',
      tags: [],
      stats: [],
      per: 'auto',
      shift: '',
      runs: [],
      order: null,
      kind: null,
      window: { kind: 'unit', unit: 'shift', which: 'this' },
      lines: null,
      norm: 'fleet',
      sorted: true,
      beside: 'none',
      pieces: [],
    });
  });

  it('begins with the last 8 hours where the plant has no shifts', () => {
    expect(parseSheet(new URLSearchParams(), WITHOUT_SHIFTS).window).toEqual(lastOf(8 * HOUR));
    const said = new URLSearchParams('last=PT2H');
    expect(parseSheet(said, WITHOUT_SHIFTS).window).toEqual(lastOf(2 * HOUR));
  });

  it('comes back as it was', () => {
    const state: SheetState = {
      ...PLAIN,
      kind: 'Line & more',
      window: { kind: 'fixed', startUs: 1_795_000_000_000_000, endUs: 1_795_000_600_000_000 },
      lines: [{ member: 'Zone 2 ~ exhaust damper', stat: 'Travel' }],
      norm: 'earlier',
      sorted: false,
      beside: 'week',
      pieces: ['Line 1', 'Line & 5'],
    };
    expect(through(state)).toEqual(state);
  });

  it('brings a table back: its tags, statistics, stretches and order', () => {
    const table: SheetState = {
      ...PLAIN,
      form: 'stretches',
      tags: ['a', 'b'],
      stats: ['Minimum', 'Percentile 95 samples'],
      per: 'shift',
      shift: 'Early & late',
      runs: ['r1', 'r2'],
      order: { column: 3, down: true },
    };
    expect(through(table)).toEqual(table);
  });

  it('keeps the window of a link of the version before', () => {
    const old = 'kind=Line&held=1795000000000000/1795000600000000&of=Zone+1~Maximum&norm=range';
    expect(parseSheet(new URLSearchParams(old))).toEqual({
      ...PLAIN,
      kind: 'Line',
      norm: 'range',
      lines: [{ member: 'Zone 1', stat: 'Maximum' }],
      window: { kind: 'fixed', startUs: 1_795_000_000_000_000, endUs: 1_795_000_600_000_000 },
    });
    expect(parseSheet(new URLSearchParams('window=last+shift')).window).toEqual({
      kind: 'unit',
      unit: 'shift',
      which: 'last',
    });
  });

  it.each([
    'held=5/1',
    'held=a/b',
    'window=next shift',
    'last=PT0S',
    'of=nothing',
    'norm=odd',
    'form=x',
    'by=3',
  ])('falls back for %s', (query) => {
    expect(parseSheet(new URLSearchParams(query))).toEqual(PLAIN);
  });
});
