/** Where figures lie on a lane, and in which order the lanes stand. */
import type { Kind } from '../../../entities/statistics';
import type { components } from '../../../platform/schema';
import { quoted } from '../../../platform/download';
import { MOST_LINES, type Line } from './state';
import { COLUMNS, digitsOf } from '../../../entities/figureTexts';

export type { Kind };
export type Member = components['schemas']['MemberOut'];
export type Cell = components['schemas']['CellOut'];
export type Sheet = components['schemas']['StatisticsOut'];

/** Half widths of the band that a lane shows to either side; what lies farther stands at its end. */
export const REACH = 4;

/** A figure on a lane: where, as a share of its width, and whether it would lie beyond it. */
export interface Mark {
  name: string;
  cell: Cell;
  at: number | null;
  beyond: boolean;
}

/** One figure of all pieces of equipment on one scale. */
export interface Lane {
  line: Line;
  member: Member;
  marks: readonly Mark[];
  oddness: number;
}

/** Statistics that say most of a member, by what it is. */
export function usualLines(kind: Kind): Line[] {
  if (kind.card.length > 0) return kind.card.map(({ member, figure }) => ({ member, stat: figure.stat }));
  const all = kind.members.flatMap((member): Line[] => {
    const of = (...stats: string[]): Line[] => stats.map((stat) => ({ member: member.name, stat }));
    if (member.value_type === 'boolean') return of('Starts', 'DurationInStateNonZero');
    return member.value_type === 'float' ? of('TimeAverage2', 'StandardDeviationPopulation', 'Travel') : [];
  });
  return all.slice(0, MOST_LINES);
}

/** The lanes of a sheet; rows of the answer are pieces of equipment, its columns the lines. */
export function lanesOf(kind: Kind, lines: readonly Line[], sheet: Sheet, sorted: boolean): Lane[] {
  const members = new Map(kind.members.map((member) => [member.name, member]));
  const lanes = lines.flatMap((line, place): Lane[] => {
    const member = members.get(line.member);
    if (member === undefined) return [];
    const marks = sheet.rows.flatMap((row) => {
      const cell = row.cells[place];
      return cell === undefined ? [] : [{ name: row.name, cell, ...placeOf(cell) }];
    });
    return [{ line, member, marks, oddness: Math.max(0, ...marks.map(({ cell }) => oddnessOf(cell))) }];
  });
  return sorted ? [...lanes].sort((a, b) => b.oddness - a.oddness) : lanes;
}

/** How far from normal; where the band has no width, whatever is off it counts as far. */
function oddnessOf(cell: Cell): number {
  if (cell.position != null) return Math.abs(cell.position);
  return cell.place === 'above' || cell.place === 'below' ? 2 : 0;
}

function placeOf(cell: Cell): { at: number | null; beyond: boolean } {
  const off = cell.place === 'above' ? REACH : cell.place === 'below' ? -REACH : null;
  const position = cell.position ?? off;
  if (position === null) return { at: null, beyond: false };
  const inside = Math.min(Math.max(position, -REACH), REACH);
  return { at: (inside + REACH) / (2 * REACH), beyond: inside !== position };
}

export function statLabel(stat: string): string {
  return COLUMNS.find((one) => one.stat === stat)?.label ?? stat;
}

/** A figure in the digits of its tag; no figure is no zero. */
export function cellText(cell: Cell, stat: string, decimals: number): string {
  return numberText(cell.value, stat, decimals);
}

export function numberText(value: Cell['value'], stat: string, decimals: number): string {
  if (value == null) return '–';
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  const number = Number(value);
  if (Number.isNaN(number)) return String(value);
  return stat === 'DurationInStateNonZero'
    ? (number / 1000).toFixed(1)
    : number.toFixed(digitsOf(stat, decimals));
}

/** The unit of a line; a time is said in seconds. */
export function unitText(stat: string, cells: readonly Cell[]): string {
  if (stat === 'DurationInStateNonZero') return 's';
  return cells.find((cell) => cell.unit !== '')?.unit ?? '';
}

/** The sheet for a spreadsheet: a line a figure, full digits. */
export function sheetText(lanes: readonly Lane[], equipment: readonly string[]): string {
  const head = ['Member', 'Statistic', 'Unit', ...equipment, ...equipment.map((name) => `${name}, place`)];
  const lines = lanes.map(({ line, marks }) => [
    line.member,
    statLabel(line.stat),
    marks.find(({ cell }) => cell.unit !== '')?.cell.unit ?? '',
    ...marks.map(({ cell }) => (cell.value == null ? '' : String(cell.value))),
    ...marks.map(({ cell }) => cell.place),
  ]);
  return [head, ...lines].map((line) => line.map(quoted).join(',')).join('\r\n');
}
