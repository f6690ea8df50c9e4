import { describe, expect, it } from 'vitest';
import { HOUR, MINUTE } from '../../../domain/time';
import { isLive } from '../../../domain/windows';
import { parseSheet, sameWindow, sheetParams, WINDOWS, type SheetState } from './state';

const through = (state: SheetState): SheetState =>
  parseSheet(new URLSearchParams(sheetParams(state).toString()));

const PLAIN: SheetState = parseSheet(new URLSearchParams());

describe('a sheet in a link', () => {
  it('has defaults', () => {
    expect(PLAIN).toEqual({
      ...{ form: 'lanes', tags: [], stats: [], per: 'auto', shift: '', runs: [], order: null },
      kind: null,
      window: { kind: 'last', lengthUs: 8 * HOUR },
      lines: null,
      norm: 'fleet',
      sorted: true,
      beside: 'none',
    });
  });

  it('comes back as it was', () => {
    const state: SheetState = {
      ...PLAIN,
      kind: 'Line & more',
      window: { kind: 'held', startUs: 1_795_000_000_000_000, endUs: 1_795_000_600_000_000 },
      lines: [{ member: 'Zone 2 ~ exhaust damper', stat: 'Travel' }],
      norm: 'earlier',
      sorted: false,
      beside: 'week',
    };
    expect(through(state)).toEqual(state);
  });

  it('brings a table back: its tags, statistics, stretches and order', () => {
    const table: SheetState = {
      ...PLAIN,
      form: 'stretches',
      tags: ['a', 'b'],
      stats: ['Minimum', 'Travel'],
      per: 'shift',
      shift: 'Early & late',
      runs: ['r1', 'r2'],
      order: { column: 3, down: true },
    };
    expect(through(table)).toEqual(table);
  });

  it.each(WINDOWS.map(({ label, window }) => [label, window] as const))(
    'keeps the window %s',
    (_, window) => {
      expect(sameWindow(through({ ...PLAIN, window }).window, window)).toBe(true);
    },
  );

  it.each([
    'held=5/1',
    'held=a/b',
    'window=next shift',
    'last=PT1S',
    'of=nothing',
    'norm=odd',
    'form=x',
    'by=3',
  ])('falls back for %s', (query) => {
    expect(parseSheet(new URLSearchParams(query))).toEqual(PLAIN);
  });

  it('knows whether it ends now', () => {
    expect(isLive({ kind: 'last', lengthUs: MINUTE })).toBe(true);
    expect(isLive({ kind: 'unit', unit: 'shift', which: 'this' })).toBe(true);
    expect(isLive({ kind: 'unit', unit: 'shift', which: 'last' })).toBe(false);
    expect(isLive({ kind: 'held', startUs: 0, endUs: 1 })).toBe(false);
  });
});
