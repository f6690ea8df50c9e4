// @vitest-environment jsdom
import { act, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { compared, tableText, type Column } from './columns';
import { DataTable } from './DataTable';
import { LongTable } from './LongTable';
import { changed, keepLayout, layoutFor, moved, readLayout, withDigits } from './layout';
import { placeAfter } from './useRowKeys';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

interface Line {
  name: string;
  moisture: number | null;
}

const LINES: Line[] = [
  { name: 'Line 10', moisture: 12.5 },
  { name: 'Line 2', moisture: null },
  { name: 'Line 1', moisture: 9 },
];
const COLUMNS: Column<Line>[] = [
  { name: 'Name', of: (row) => row.name, value: (row) => row.name },
  {
    name: 'Moisture',
    of: ({ moisture }, digits) => (digits === undefined ? moisture : moisture?.toFixed(digits)) ?? '–',
    isNumber: true,
    value: (row) => row.moisture,
    right: true,
  },
  { name: 'Look', of: () => 'Trend' },
];

let root: Root;
const opened = vi.fn<(name: string) => void>();
const toggled = vi.fn<(key: string) => void>();

function Lines({
  rows = LINES,
  total,
  isPartial = false,
}: {
  rows?: Line[];
  total?: number;
  isPartial?: boolean;
}): ReactElement {
  return (
    <DataTable
      label="Lines"
      columns={COLUMNS}
      rows={rows}
      keyOf={(row) => row.name}
      empty="No line."
      keptAs="lines"
      onSelect={(row) => opened(row.name)}
      choosing={{
        chosen: new Set(['Line 2']),
        onToggle: toggled,
        onToggleAll: () => toggled('all'),
        nameOf: (row) => row.name,
      }}
      isPartial={isPartial}
      {...(total === undefined ? {} : { total })}
    />
  );
}

const draw = (table: ReactElement): void => act(() => root.render(table));
const texts = (selector: string): string[] =>
  [...document.querySelectorAll(selector)].map((one) => one.textContent);
const names = (): string[] => texts('tbody tr td:nth-child(2)');
const click = (element: Element | null | undefined): void =>
  act(() => void element?.dispatchEvent(new MouseEvent('click', { bubbles: true })));
const button = (name: string): Element | undefined =>
  [...document.querySelectorAll('button, [role=button], th span')].find(
    (one) => one.textContent === name || one.getAttribute('aria-label') === name,
  );
const head = (name: string): void =>
  click([...document.querySelectorAll('th .MuiTableSortLabel-root')].find((one) => one.textContent === name));
const type = (label: string, text: string): void =>
  act(() => {
    const field = document.querySelector<HTMLInputElement>(`[aria-label="${label}"]`);
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set?.call(field, text);
    field?.dispatchEvent(new Event('input', { bubbles: true }));
  });

// A part that is loaded when it is asked for: the first import takes its time.
beforeAll(async () => {
  await import('./ColumnsPanel');
}, 60_000);
beforeEach(() => {
  localStorage.clear();
  opened.mockClear();
  toggled.mockClear();
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
});

describe('a table', () => {
  it('is ordered by a column, up, down, and as it came; what has no value stands last', () => {
    draw(<Lines />);
    head('Name');
    expect(names()).toEqual(['Line 1', 'Line 2', 'Line 10']);
    head('Moisture');
    expect(names()).toEqual(['Line 1', 'Line 10', 'Line 2']);
    head('Moisture');
    expect(names()).toEqual(['Line 10', 'Line 1', 'Line 2']);
    head('Moisture');
    expect(names()).toEqual(['Line 10', 'Line 2', 'Line 1']);
  });

  it('cannot be ordered while not all rows are there: the order would be wrong', () => {
    draw(<Lines total={500} />);
    expect(document.querySelectorAll('.MuiTableSortLabel-root')).toHaveLength(0);
    expect(button('CSV')).toBeUndefined();
    expect(document.querySelector('table')?.getAttribute('aria-rowcount')).toBe('501');
    draw(<Lines isPartial />);
    expect(document.querySelectorAll('.MuiTableSortLabel-root')).toHaveLength(0);
    expect(document.querySelector('table')?.getAttribute('aria-rowcount')).toBe('-1');
  });

  it('keeps which columns are shown, in which order and how they are called', async () => {
    draw(<Lines />);
    click(button('Columns'));
    await act(async () => new Promise((passed) => setTimeout(passed)));
    click(document.querySelector('[aria-label="Show Look"]'));
    type('Name of the column Moisture', 'Water');
    click(button('Moisture to the left'));
    expect(texts('th').filter(Boolean)).toEqual(['Water', 'Name']);
    act(() => root.unmount());
    root = createRoot(document.body.appendChild(document.createElement('div')));
    draw(<Lines />);
    expect(texts('th').filter(Boolean)).toEqual(['Water', 'Name']);
  });

  it('shows numbers with other decimals where that is chosen, and of nothing else', async () => {
    draw(<Lines />);
    click(button('Columns'));
    await act(async () => new Promise((passed) => setTimeout(passed)));
    expect(document.querySelector('[aria-label="Decimals of the column Name"]')).toBeNull();
    type('Decimals of the column Moisture', '2');
    expect(texts('td')).toContain('9.00');
    type('Decimals of the column Moisture', '');
    expect(texts('td')).toContain('9');
  });

  it('opens and chooses rows, by keys too', () => {
    draw(<Lines />);
    const stops = (): string[] => texts('[data-row][tabindex="0"]');
    expect(stops()).toEqual(['Line 10']);
    const first = document.querySelector<HTMLElement>('[data-row="0"]');
    const press = (key: string, on: Element | null): void =>
      act(() => void on?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true })));
    press('ArrowDown', first);
    expect(stops()).toEqual(['Line 2']);
    press(' ', document.querySelector('[data-row="1"]'));
    expect(toggled).toHaveBeenCalledWith('Line 2');
    click(document.querySelector('[data-row="1"]'));
    expect(opened).toHaveBeenCalledExactlyOnceWith('Line 2');
    click(document.querySelector('[aria-label="Choose Line 1"]'));
    expect(toggled).toHaveBeenLastCalledWith('Line 1');
    expect(opened).toHaveBeenCalledOnce();
  });

  it('says where there is nothing', () => {
    draw(<Lines rows={[]} />);
    expect(document.body.textContent).toContain('No line.');
  });

  it('draws only what is looked at of ten thousand rows', () => {
    const rows = Array.from({ length: 10_000 }, (_, i) => ({ name: `Tag ${i}`, moisture: i }));
    draw(
      <LongTable
        label="Tags"
        columns={COLUMNS}
        rows={rows}
        keyOf={(row) => row.name}
        empty=""
        height="300px"
      />,
    );
    expect(document.querySelectorAll('tbody tr').length).toBeLessThan(100);
    expect(document.querySelector('table')?.getAttribute('aria-rowcount')).toBe('10001');
  });
});

describe('a table as text', () => {
  it('has the columns that have values, in full, quoted where they must be', () => {
    const rows = [{ name: 'Line "1", left', moisture: 9.125 }, ...LINES.slice(1, 2)];
    expect(tableText(COLUMNS, rows, ',')).toBe('Name,Moisture\n"Line ""1"", left",9.125\nLine 2,');
    expect(tableText(COLUMNS, rows.slice(1), '\t')).toBe('Name\tMoisture\nLine 2\t');
  });

  it('is ordered as people count', () => {
    expect(['Unit 10', 'unit 2', 'Unit 1'].sort(compared)).toEqual(['Unit 1', 'unit 2', 'Unit 10']);
    expect(compared(2, 10)).toBeLessThan(0);
    expect(compared(false, true)).toBeLessThan(0);
  });
});

describe('the columns that are kept', () => {
  const KEPT = [
    { id: 'b', isShown: false, name: 'Second' },
    { id: 'gone', isShown: true, name: '' },
  ];

  it('are those there are: new ones come last, what is gone is left out', () => {
    expect(layoutFor(['a', 'b', 'c'], KEPT)).toEqual([
      { id: 'b', isShown: false, name: 'Second' },
      { id: 'a', isShown: true, name: '' },
      { id: 'c', isShown: true, name: '' },
    ]);
  });

  it('move by one, not beyond the ends, and change one at a time', () => {
    const layout = layoutFor(['a', 'b', 'c'], []);
    expect(moved(layout, 'c', -1).map(({ id }) => id)).toEqual(['a', 'c', 'b']);
    expect(moved(layout, 'a', -1)).toEqual(layout);
    expect(changed(layout, 'b', { name: 'x' })[1]).toEqual({ id: 'b', isShown: true, name: 'x' });
  });

  it('have decimals of their own, until these are taken back; what is no number of them is not taken', () => {
    const layout = withDigits(layoutFor(['a', 'b'], []), 'a', '3');
    expect(layout[0]).toEqual({ id: 'a', isShown: true, name: '', digits: 3 });
    expect(withDigits(layout, 'b', 'x')[0]?.digits).toBe(3);
    expect(withDigits(layout, 'a', '')[0]).toEqual({ id: 'a', isShown: true, name: '' });
    keepLayout('y', [...layout, { id: 'c', isShown: true, name: '', digits: 99 }]);
    expect(readLayout('y').map(({ digits }) => digits)).toEqual([3, undefined, undefined]);
  });

  it.each(['', '{', '{"a":1}', '[null,5,{"id":3}]'])('are none where they cannot be read: %s', (text) => {
    localStorage.setItem('cronaca.table.x', text);
    expect(readLayout('x')).toEqual([]);
  });
});

it.each([
  ['ArrowUp', 0, 0],
  ['ArrowDown', 3, 4],
  ['ArrowDown', 9, 9],
  ['PageDown', 1, 9],
  ['Home', 7, 0],
  ['End', 2, 9],
  ['x', 2, null],
])('the key %s leads from row %i to %s of ten', (key, from, to) => {
  expect(placeAfter(key, from, 10)).toBe(to);
});
