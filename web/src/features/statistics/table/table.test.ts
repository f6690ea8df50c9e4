import { describe, expect, it } from 'vitest';
import type { Tag } from '../../../platform/client';
import { HOUR } from '../../../domain/time';
import type { Cell } from '../sheet/lanes';
import { gridOfStretches, gridText, nextOrder, ordered, usualTags, type GridRow } from './table';
import type { Stretches } from '../../../entities/statistics';

const TAG = { uid: 'a', name: 'Line 3 damper', unit: '%', decimals: 1, value_type: 'float' } as Tag;
const cell = (value: number | null): Cell =>
  ({ tag: 'a', value, unit: '%', quality: 'Good', place: 'normal' }) as unknown as Cell;
const row = (name: string, ...values: (number | null)[]): GridRow => ({
  key: name,
  tag: TAG,
  name,
  stats: values.map(() => 'Travel'),
  cells: values.map(cell),
});

describe('the order of rows', () => {
  const rows = [row('low', 1, 9), row('none', null, 5), row('high', 7, 1)];
  const names = (order: Parameters<typeof ordered>[1]) => ordered(rows, order).map(({ name }) => name);

  it('is the one chosen until a column orders them', () => {
    expect(names(null)).toEqual(['low', 'none', 'high']);
    expect(names({ column: 0, down: true })).toEqual(['high', 'low', 'none']);
    expect(names({ column: 1, down: false })).toEqual(['high', 'none', 'low']);
  });

  it('keeps rows without a figure last, whichever way', () => {
    expect(names({ column: 0, down: false })).toEqual(['low', 'high', 'none']);
  });

  it('falls, rises and goes at the clicks on a column', () => {
    expect(nextOrder(null, 2)).toEqual({ column: 2, down: true });
    expect(nextOrder({ column: 2, down: true }, 2)).toEqual({ column: 2, down: false });
    expect(nextOrder({ column: 2, down: false }, 2)).toBeNull();
    expect(nextOrder({ column: 1, down: false }, 2)).toEqual({ column: 2, down: true });
  });
});

describe('stretches', () => {
  const stretch = (name: string, hour: number, cut = false): Stretches['columns'][number] => ({
    name,
    cut,
    start_us: String(hour * HOUR),
    end_us: String((hour + 1) * HOUR),
  });
  const table = (...columns: Stretches['columns']): Stretches => ({
    now_us: '0',
    columns,
    rows: [{ name: '', oddness: 0, cells: columns.map((_, i) => cell(i)) }],
  });

  it('are called by their shift or run with the day, or by when they begin; parts say so', () => {
    const found = table(stretch('Early', 6), stretch('', 30, true));
    const { columns } = gridOfStretches([{ tag: TAG, stat: 'Travel' }], found, 'UTC');
    expect(columns[0]?.name).toBe('Early');
    expect(columns[1]?.name).toMatch(/06:00/);
    expect(columns[1]?.note).toMatch(/, a part$/);
    expect(columns[1]?.range).toEqual({ startUs: 30 * HOUR, endUs: 31 * HOUR });
  });

  it('go into a file with full digits and nothing where there is nothing', () => {
    const found = table(stretch('Early', 6), stretch('Early', 30));
    const grid = gridOfStretches([{ tag: TAG, stat: 'Travel' }], found, 'UTC');
    const text = gridText(grid, [{ ...row('x', 0.1 + 0.2, null) }]);
    expect(text.split('\r\n')[1]).toContain('0.30000000000000004');
    expect(text.endsWith(',""') || text.endsWith(',')).toBe(true);
  });
});

it('begins with the measurements of the first piece, or one of them over time', () => {
  const member = (value_type: string, uid: string | null) =>
    ({ name: 'm', unit: '', value_type, decimals: 0, tags: [uid] }) as const;
  const kind = {
    name: 'Line',
    equipment: ['Line 1'],
    equipment_class: null,
    card: [],
    members: [member('float', 'a'), member('boolean', 'b'), member('float', null), member('float', 'c')],
  } as unknown as Parameters<typeof usualTags>[0][number];
  expect(usualTags([kind], 'tags')).toEqual(['a', 'c']);
  expect(usualTags([kind], 'stretches')).toEqual(['a']);
  expect(usualTags([], 'tags')).toEqual([]);
});
