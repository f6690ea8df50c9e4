/** Where figures lie on a lane, and in which order the lanes stand. */
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { VERDICTS } from '../../../entities/stats/verdicts';
import { fill } from '../../../domain/fill';
import type { Kind } from '../../../entities/statistics';
import type { components } from '../../../platform/schema';
import { quoted } from '../../../platform/download';
import { MOST_LINES, type Line } from './state';
import { figureLine, numberText, statLabel, unitShown } from '../../../entities/stats/labels';

export type { Kind };
export type Member = components['schemas']['MemberOut'];
export type Cell = components['schemas']['CellOut'];
export type Sheet = components['schemas']['StatisticsOut'];
type LimitMarks = components['schemas']['LimitMarksOut'];

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
  if (kind.card.length > 0)
    return kind.card.map(({ member, figure }) => ({ member, stat: figureLine(figure) }));
  const all = kind.members.flatMap((member): Line[] => {
    const of = (...stats: string[]): Line[] => stats.map((stat) => ({ member: member.name, stat }));
    if (member.value_type === 'boolean') return of('Starts', 'DurationInStateNonZero');
    return member.value_type === 'float' ? of('TimeAverage2', 'StandardDeviationPopulation', 'Travel') : [];
  });
  return all.slice(0, MOST_LINES);
}

/** The lanes of a sheet; rows of the answer are pieces of equipment, its columns the lines. Of the pieces those that
 * are chosen are shown. */
export function lanesOf(
  kind: Kind,
  lines: readonly Line[],
  sheet: Sheet,
  { sorted, pieces }: { sorted: boolean; pieces: readonly string[] },
): Lane[] {
  const shown = shownPieces(kind, pieces).map(({ place }) => place);
  const members = new Map(kind.members.map((member) => [member.name, member]));
  const lanes = lines.flatMap((line, place): Lane[] => {
    const member = members.get(line.member);
    if (member === undefined) return [];
    const marks = shown.flatMap((piece) => {
      const row = sheet.rows[piece];
      const cell = row?.cells[place];
      return row === undefined || cell === undefined ? [] : [{ name: row.name, cell, ...placeOf(cell) }];
    });
    return [{ line, member, marks, oddness: Math.max(0, ...marks.map(({ cell }) => oddnessOf(cell))) }];
  });
  return sorted ? [...lanes].sort((a, b) => b.oddness - a.oddness) : lanes;
}

/** How far from normal; where the band has no width, whatever is off it counts as far, as a broken limit does. */
function oddnessOf(cell: Cell): number {
  const broken = (cell.limits?.broken ?? '') === '' ? 0 : 2;
  if (cell.position != null) return Math.max(Math.abs(cell.position), broken);
  if (broken > 0) return broken;
  return cell.place === 'above' || cell.place === 'below' ? 2 : 0;
}

function placeOf(cell: Cell): { at: number | null; beyond: boolean } {
  const off = cell.place === 'above' ? REACH : cell.place === 'below' ? -REACH : null;
  const position = cell.position ?? off;
  if (position === null) return { at: null, beyond: false };
  const inside = Math.min(Math.max(position, -REACH), REACH);
  return { at: (inside + REACH) / (2 * REACH), beyond: inside !== position };
}

/** A figure in the digits of its tag; no figure is no zero. */
export function cellText(cell: Cell, stat: string, decimals: number): string {
  return numberText(cell.value, stat, decimals);
}

/** The unit of a line. */
export function unitText(stat: string, cells: readonly Cell[]): string {
  return unitShown(stat, cells.find((cell) => cell.unit !== '')?.unit ?? '');
}

/** The limits of a lane, where all that have some have the same. */
export function limitsOf({ marks }: Lane): LimitMarks | null {
  const [first, ...others] = marks.flatMap(({ cell }) => cell.limits ?? []);
  const same = (one: LimitMarks): boolean => one.low === first?.low && one.high === first.high;
  return first !== undefined && others.every(same) ? first : null;
}

/** Where on a lane so many half widths from the centre lie, as a share of its width; null: beyond its ends. */
export function shareOf(position: number | null): number | null {
  return position === null || Math.abs(position) > REACH ? null : (position + REACH) / (2 * REACH);
}

/** The equipment that is shown, with its place among all of its kind; what is normal is learnt from all. */
export function shownPieces(kind: Kind, chosen: readonly string[]): { name: string; place: number }[] {
  const all = kind.equipment.map((name, place) => ({ name, place }));
  const shown = all.filter(({ name }) => chosen.includes(name));
  return shown.length === 0 ? all : shown;
}

/** The sheet for a spreadsheet: a line a figure, full digits. */
export function sheetText(lanes: readonly Lane[], equipment: readonly string[]): string {
  const head = [
    wording.member,
    wording.statistic,
    common.unit,
    ...equipment,
    ...equipment.map((name) => fill(wording.namePlace, { name })),
  ];
  const lines = lanes.map(({ line, marks }) => [
    line.member,
    statLabel(line.stat),
    marks.find(({ cell }) => cell.unit !== '')?.cell.unit ?? '',
    ...marks.map(({ cell }) => (cell.value == null ? '' : String(cell.value))),
    ...marks.map(({ cell }) => VERDICTS[cell.place]),
  ]);
  return [head, ...lines].map((line) => line.map(quoted).join(',')).join('\r\n');
}
