/** What a trend shows, kept in the address: a link restores the view. */
import {
  durationText,
  isoText,
  MINUTE,
  parseDuration,
  parseIso,
  SECOND,
  type Span,
} from '../../../domain/time';
import { parseStrips, stripsText, type OwnWindow, type Strip } from './layout';
import { madeText, parseMade, type MadePens } from './made';
import { looksText, parseLooks, type Looks } from './looks';

export type TrendWindow =
  { mode: 'live'; lengthUs: number } | { mode: 'hold'; startUs: number; endUs: number };

export interface TrendState {
  /** Uids in the order of the pens; null before any were chosen. */
  tags: string[] | null;
  window: TrendWindow;
  selected: string | null;
  hidden: string[];
  scales: Scales;
  /** The cursors that bound a range, µs. */
  a: number | null;
  b: number | null;
  looks: Looks;
  /** The same pens this much earlier are drawn beside; 0: they are not. */
  ghostUs: number;
  /** The sheet that was opened. */
  sheet: string | null;
  /** None: one strip shows everything. */
  strips: Strip[];
  /** Texts are to be read at a distance. */
  large: boolean;
  /** Pens that are no tags, by uids of their own among `tags`. */
  made: MadePens;
  /** When a live window moves: all the time, every so often, or when a tag becomes true or changes. */
  refresh: Refresh | null;
  /** A link to look at only: what may be done beside looking. null: everything. */
  allow: readonly Allowed[] | null;
}

export type Refresh = { everyUs: number } | { tag: string };

export const ALLOWED = ['time', 'files'] as const;
export type Allowed = (typeof ALLOWED)[number];

/** The tags' own ranges; fitted to what is visible; each on its own range, the axis from 0 to 100 %. */
export const SCALES = ['own', 'fit', 'percent'] as const;
export type Scales = (typeof SCALES)[number];

export const MOST_TAGS = 32;
export const SHORTEST_US = SECOND / 1000;
export const LONGEST_US = 30 * 366 * 86_400 * SECOND;
export const DEFAULT_LENGTH_US = 10 * MINUTE;
const UID = /^[0-9a-f-]{36}$/;

function uids(text: string | null): string[] | null {
  if (text === null) return null;
  return [...new Set(text.split(',').filter((uid) => UID.test(uid)))].slice(0, MOST_TAGS);
}

function windowOf(params: URLSearchParams): TrendWindow {
  const from = parseIso(params.get('from') ?? '');
  const to = parseIso(params.get('to') ?? '');
  if (from !== null && to !== null && to - from >= SHORTEST_US && to - from <= LONGEST_US) {
    return { mode: 'hold', startUs: from, endUs: to };
  }
  const length = parseDuration(params.get('last') ?? '');
  const usable = length !== null && length >= SECOND && length <= LONGEST_US;
  return { mode: 'live', lengthUs: usable ? length : DEFAULT_LENGTH_US };
}

function refreshOf(text: string | null): Refresh | null {
  if (text === null) return null;
  if (UID.test(text)) return { tag: text };
  const everyUs = parseDuration(text);
  return everyUs === null || everyUs < SECOND ? null : { everyUs };
}

/** The tag that refreshes the display. */
export function triggerOf(refresh: Refresh | null): string | null {
  return refresh !== null && 'tag' in refresh ? refresh.tag : null;
}

function allowedOf(text: string | null): readonly Allowed[] | null {
  if (text === null) return null;
  const words = text.split(',');
  return ALLOWED.filter((one) => words.includes(one));
}

/** The state in an address; what is missing or unusable takes its default. */
export function parseState(params: URLSearchParams): TrendState {
  return {
    tags: uids(params.get('tags')),
    window: windowOf(params),
    selected: uids(params.get('pen'))?.[0] ?? null,
    hidden: uids(params.get('hidden')) ?? [],
    scales: SCALES.find((one) => one === params.get('scale')) ?? 'own',
    a: parseIso(params.get('a') ?? ''),
    b: parseIso(params.get('b') ?? ''),
    looks: parseLooks(params.get('look')),
    ghostUs: parseDuration(params.get('ghost') ?? '') ?? 0,
    sheet: uids(params.get('sheet'))?.[0] ?? null,
    strips: parseStrips(params.get('strips')),
    large: params.get('text') === 'large',
    made: parseMade(params.get('made')),
    refresh: refreshOf(params.get('refresh')),
    allow: allowedOf(params.get('only')),
  };
}

/** The address of a state. */
export function stateParams(state: TrendState): URLSearchParams {
  const params = new URLSearchParams();
  if (state.tags !== null) params.set('tags', state.tags.join(','));
  if (state.window.mode === 'live') {
    params.set('last', durationText(state.window.lengthUs));
  } else {
    params.set('from', isoText(state.window.startUs));
    params.set('to', isoText(state.window.endUs));
  }
  if (state.selected !== null) params.set('pen', state.selected);
  if (state.hidden.length > 0) params.set('hidden', state.hidden.join(','));
  if (state.scales !== 'own') params.set('scale', state.scales);
  if (state.a !== null) params.set('a', isoText(Math.round(state.a)));
  if (state.b !== null) params.set('b', isoText(Math.round(state.b)));
  const look = looksText(state.looks);
  if (look !== null) params.set('look', look);
  if (state.ghostUs > 0) params.set('ghost', durationText(state.ghostUs));
  if (state.sheet !== null) params.set('sheet', state.sheet);
  const strips = stripsText(state.strips);
  if (strips !== null) params.set('strips', strips);
  if (state.large) params.set('text', 'large');
  const made = madeText(state.made);
  if (made !== null) params.set('made', made);
  const { refresh } = state;
  if (refresh !== null) {
    params.set('refresh', 'tag' in refresh ? refresh.tag : durationText(refresh.everyUs));
  }
  if (state.allow !== null) params.set('only', state.allow.join(','));
  return params;
}

/** The stretch of time a window shows now. */
export function spanOf(window: TrendWindow, nowUs: number): Span {
  if (window.mode === 'hold') return { startUs: window.startUs, endUs: window.endUs };
  return { startUs: nowUs - window.lengthUs, endUs: nowUs };
}

export function lengthOf(window: TrendWindow): number {
  return window.mode === 'live' ? window.lengthUs : window.endUs - window.startUs;
}

/** A held window, kept inside what can be asked for. */
export function held(startUs: number, endUs: number): TrendWindow {
  const length = Math.min(Math.max(endUs - startUs, SHORTEST_US), LONGEST_US);
  const start = Math.max(0, Math.round((startUs + endUs - length) / 2));
  return { mode: 'hold', startUs: start, endUs: start + Math.round(length) };
}

/** The span moved by a share of its length. */
export function stepped(span: Span, share: number): TrendWindow {
  const by = (span.endUs - span.startUs) * share;
  return held(span.startUs + by, span.endUs + by);
}

/** The span made `factor` times as long around a moment. */
export function zoomed(span: Span, factor: number, aroundUs: number): TrendWindow {
  return held(aroundUs - (aroundUs - span.startUs) * factor, aroundUs + (span.endUs - aroundUs) * factor);
}

/** What a sheet keeps: all but the sheet itself. */
export function viewText(state: TrendState): string {
  return stateParams({ ...state, sheet: null, allow: null }).toString();
}

/** The query of a link to look at this view only. */
export function viewOnlyText(state: TrendState, allow: readonly Allowed[]): string {
  return stateParams({ ...state, sheet: null, allow }).toString();
}

/** A window of a strip of its own as a window. */
export function windowOfStrip({ lengthUs, endUs }: OwnWindow): TrendWindow {
  return endUs === null ? { mode: 'live', lengthUs } : { mode: 'hold', startUs: endUs - lengthUs, endUs };
}

/** A span as the window of a strip, kept inside what can be asked for. */
export function stripWindow(span: Span): OwnWindow {
  const window = held(span.startUs, span.endUs);
  return { lengthUs: lengthOf(window), endUs: spanOf(window, 0).endUs };
}

/** The stretch between both cursors, or the whole window. */
export function rangeOf(state: Pick<TrendState, 'a' | 'b'>, span: Span): Span {
  const { a, b } = state;
  if (a === null || b === null || a === b) return span;
  return { startUs: Math.min(a, b), endUs: Math.max(a, b) };
}
