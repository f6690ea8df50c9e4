/** What a statistics sheet shows, as it travels in the address. */
import {
  BESIDES,
  NORMS,
  STRETCHES,
  type Beside,
  type Line,
  type Norm,
  type StretchKind,
} from '../../../domain/sheets';
import { HOUR } from '../../../domain/time';
import { lastOf, parseWindow, windowParams, type WindowChoice } from '../../../domain/windows';

export { BESIDES, NORMS, STRETCHES };
export type { Beside, Line, Norm, StretchKind };

/** What the page shows: equipment beside its kind; tags by statistics; statistics by stretches of time. */
export const FORMS = ['lanes', 'tags', 'stretches'] as const;
export type Form = (typeof FORMS)[number];

/** What stands in a table. */
export interface TableState {
  /** Uids; none: those of the first piece of equipment. */
  tags: readonly string[];
  /** None: the usual ones. */
  stats: readonly string[];
  /** Into what the window is cut. */
  per: StretchKind;
  /** Only this shift, day after day; empty: all. */
  shift: string;
  /** Runs side by side, in place of stretches of the window. */
  runs: readonly string[];
  /** Column by which the rows are ordered, from 0; null: as chosen. */
  order: { column: number; down: boolean } | null;
}

export interface SheetState extends TableState {
  form: Form;
  /** Name of the kind of equipment; null: the first there is. */
  kind: string | null;
  window: WindowChoice;
  /** Null: chosen by what the members are. */
  lines: readonly Line[] | null;
  norm: Norm;
  /** Those that stand out come first. */
  sorted: boolean;
  /** Which window the figures stand beside. */
  beside: Beside;
  /** Names of the equipment shown; none: all of the kind. */
  pieces: readonly string[];
}

/** The window where an address says none: this shift, and where the plant has no shifts, the last 8 hours. */
export const THIS_SHIFT: WindowChoice = { kind: 'unit', unit: 'shift', which: 'this' };
export const WITHOUT_SHIFTS = lastOf(8 * HOUR);
/** So many figures of each piece are shown at most. */
export const MOST_LINES = 120;
const MOST_PIECES = 500;
export const MOST_ROWS = 60;
export const MOST_STATS = 20;
export const MOST_RUNS = 40;

export function parseSheet(params: URLSearchParams, usual: WindowChoice = THIS_SHIFT): SheetState {
  const lines = params.getAll('of').flatMap((text): Line[] => {
    const at = text.lastIndexOf('~');
    return at <= 0 ? [] : [{ member: text.slice(0, at), stat: text.slice(at + 1) }];
  });
  return {
    form: formOf(params),
    ...tableOf(params),
    kind: params.get('kind'),
    window: parseWindow(params) ?? usual,
    lines: lines.length === 0 ? null : lines.slice(0, MOST_LINES),
    norm: NORMS.find((one) => one === params.get('norm')) ?? 'fleet',
    sorted: params.get('order') !== 'kept',
    beside: BESIDES.find((one) => one === params.get('beside')) ?? 'none',
    pieces: params.getAll('piece').slice(0, MOST_PIECES),
  };
}

export function formOf(params: URLSearchParams): Form {
  return FORMS.find((one) => one === params.get('form')) ?? 'lanes';
}

function tableOf(params: URLSearchParams): TableState {
  const order = /^(\d{1,3})([+-])$/.exec(params.get('by') ?? '');
  return {
    tags: params.getAll('tag').slice(0, MOST_ROWS),
    stats: params.getAll('stat').slice(0, MOST_STATS),
    per: STRETCHES.find((one) => one === params.get('per')) ?? 'auto',
    shift: params.get('shift') ?? '',
    runs: params.getAll('run').slice(0, MOST_RUNS),
    order: order === null ? null : { column: Number(order[1]), down: order[2] === '-' },
  };
}

function putTable(params: URLSearchParams, state: SheetState): void {
  if (state.form === 'lanes') return;
  params.set('form', state.form);
  for (const tag of state.tags) params.append('tag', tag);
  for (const stat of state.stats) params.append('stat', stat);
  if (state.per !== 'auto') params.set('per', state.per);
  if (state.shift !== '') params.set('shift', state.shift);
  for (const run of state.runs) params.append('run', run);
  if (state.order !== null) params.set('by', `${state.order.column}${state.order.down ? '-' : '+'}`);
}

export function sheetParams(state: SheetState): URLSearchParams {
  const params = new URLSearchParams();
  if (state.kind !== null) params.set('kind', state.kind);
  for (const [key, value] of windowParams(state.window)) params.set(key, value);
  for (const { member, stat } of state.lines ?? []) params.append('of', `${member}~${stat}`);
  if (state.norm !== 'fleet') params.set('norm', state.norm);
  if (!state.sorted) params.set('order', 'kept');
  if (state.beside !== 'none') params.set('beside', state.beside);
  for (const piece of state.pieces) params.append('piece', piece);
  putTable(params, state);
  return params;
}
