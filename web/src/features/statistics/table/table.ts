/** Tables of figures: what stands where, in which order. */
import * as wording from 'texts/statistics.json';
import type { Tag } from '../../../platform/client';
import { quoted } from '../../../platform/download';
import { clockText, dayText, DAY, MINUTE, type Span } from '../../../domain/time';
import { type Cell, type Kind, type Sheet } from '../sheet/lanes';
import { statLabel } from '../../../entities/stats/labels';
import type { SheetState } from '../sheet/state';
import type { Stretches } from '../../../entities/statistics';

export interface GridColumn {
  key: string;
  name: string;
  /** What is to be known of it, in small letters. */
  note: string;
  /** Which stretch it is, where it is one. */
  about: string;
  /** Over what its figures are. */
  range: Span;
}

export interface GridRow {
  key: string;
  tag: Tag;
  name: string;
  /** The statistic of each cell. */
  stats: readonly string[];
  cells: readonly Cell[];
}

export interface Grid {
  columns: readonly GridColumn[];
  rows: readonly GridRow[];
}

const USUAL_STATS = ['Minimum', 'TimeAverage2', 'Maximum', 'StandardDeviationPopulation', 'PercentGood'];
/** So many tags stand in a table that nobody has chosen any for. */
const FIRST_TAGS = 8;

/** The tags that a table begins with: the measurements of the first piece of equipment, or one over time. */
export function usualTags(kinds: readonly Kind[], form: SheetState['form']): string[] {
  const members = kinds[0]?.members.filter((one) => one.value_type === 'float') ?? [];
  const tags = members.flatMap((one) => one.tags[0] ?? []);
  return tags.slice(0, form === 'stretches' ? 1 : FIRST_TAGS);
}

export function usualStats({ stats }: Pick<SheetState, 'stats'>): readonly string[] {
  return stats.length === 0 ? USUAL_STATS : stats;
}

/** Tags in rows, statistics in columns. */
export function gridOfTags(tags: readonly Tag[], stats: readonly string[], sheet: Sheet): Grid {
  const range = spanOf(sheet.window);
  return {
    columns: stats.map((stat) => ({ key: stat, name: statLabel(stat), note: '', about: '', range })),
    rows: tags.map((tag, i) => ({
      key: tag.uid,
      tag,
      name: tag.name,
      stats,
      cells: sheet.rows[i]?.cells ?? [],
    })),
  };
}

/** Statistics of tags in rows, stretches in columns. */
export function gridOfStretches(
  rows: readonly { tag: Tag; stat: string }[],
  found: Stretches,
  zone: string,
): Grid {
  return {
    columns: found.columns.map((column, i) => {
      const { name, note } = namesOf(column, found, zone);
      const about = `${name} ${note}`.trim();
      return { key: `${i} ${column.start_us}`, name, note, about, range: spanOf(column) };
    }),
    rows: rows.map(({ tag, stat }, i) => ({
      key: `${tag.uid} ${stat}`,
      tag,
      name: `${tag.name} · ${statLabel(stat)}`,
      stats: found.columns.map(() => stat),
      cells: found.rows[i]?.cells ?? [],
    })),
  };
}

function namesOf(
  column: Stretches['columns'][number],
  { columns }: Stretches,
  zone: string,
): { name: string; note: string } {
  const [start, end] = [Number(column.start_us), Number(column.end_us)];
  const cut = column.cut ? wording.aPart : '';
  const whole = Number(columns.at(-1)?.end_us) - Number(columns[0]?.start_us);
  const day = dayText(start, zone);
  if (column.name !== '') return { name: column.name, note: `${day}${cut}` };
  if (end - start >= 20 * 60 * MINUTE) return { name: day, note: cut.slice(2) };
  const clock = clockText(start, zone, MINUTE);
  return { name: clock, note: `${whole > DAY ? day : ''}${cut}` };
}

function spanOf(window: { start_us: string; end_us: string }): Span {
  return { startUs: Number(window.start_us), endUs: Number(window.end_us) };
}

/** The rows by the figures of one column; those without a figure come last. */
export function ordered(rows: readonly GridRow[], order: SheetState['order']): readonly GridRow[] {
  if (order === null) return rows;
  const { column, down } = order;
  const valueOf = (row: GridRow): number => {
    const value = row.cells[column]?.value;
    return value == null ? NaN : Number(value);
  };
  return [...rows].sort((a, b) => {
    const [x, y] = [valueOf(a), valueOf(b)];
    if (Number.isNaN(x) || Number.isNaN(y)) return Number(Number.isNaN(x)) - Number(Number.isNaN(y));
    return down ? y - x : x - y;
  });
}

/** What a click on a column's head makes of the order: falling, rising, as chosen. */
export function nextOrder(order: SheetState['order'], column: number): SheetState['order'] {
  if (order?.column !== column) return { column, down: true };
  return order.down ? { column, down: false } : null;
}

/** The table for a spreadsheet, full digits. */
export function gridText({ columns }: Grid, rows: readonly GridRow[]): string {
  const head = ['', ...columns.map(({ name, note }) => (note === '' ? name : `${name} ${note}`))];
  const lines = rows.map(({ name, cells }) => [
    name,
    ...cells.map(({ value }) => (value == null ? '' : String(value))),
  ]);
  return [head, ...lines].map((line) => line.map(quoted).join(',')).join('\r\n');
}
