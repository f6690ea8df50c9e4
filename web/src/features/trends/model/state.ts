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
import { fixedWindow, lastOf, parseWindow, windowParams, type WindowChoice } from '../../../domain/windows';
import { parseStrips, stripsText, type Strip } from './layout';
import { displayText, parseDisplay, type Display } from './display';
import { madeText, parseMade, type MadePens } from './made';
import { looksText, parseLooks, type Looks } from './looks';

/** How much larger cards and figures are with large texts; what stands in the plot grows by half. */
export const LARGE = 1.4;

export interface TrendState {
  /** Uids in the order of the pens; null before any were chosen. */
  tags: string[] | null;
  window: WindowChoice;
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
  display: Display;
  /** Pens that are no tags, by uids of their own among `tags`. */
  made: MadePens;
  /** When a live window moves: all the time, every so often, or by a tag. */
  refresh: Refresh | null;
  /** A link to look at only: what may be done beside looking. null: everything. */
  allow: readonly Allowed[] | null;
}

/** By a tag: at an edge (a number that grows or falls), at any change, or all the time while it is on; without one when a
 * contact closes or anything else changes. */
export const EDGES = ['rising', 'falling', 'either', 'level'] as const;
export type Edge = (typeof EDGES)[number];
export type Refresh = { everyUs: number } | { tag: string; edge?: Edge };

/** The ends of a pen's scale. */
export interface ScaleEnds {
  uid: string;
  low: number;
  high: number;
}

export const ALLOWED = ['time', 'files'] as const;
export type Allowed = (typeof ALLOWED)[number];

/** The tags' own ranges; fitted to what is visible; each on its own range, the axis from 0 to 100 %. */
export const SCALES = ['own', 'fit', 'percent'] as const;
export type Scales = (typeof SCALES)[number];

export const MOST_TAGS = 32;
export const DEFAULT_LENGTH_US = 10 * MINUTE;
const UID = /^[0-9a-f-]{36}$/;

function uids(text: string | null): string[] | null {
  if (text === null) return null;
  return [...new Set(text.split(',').filter((uid) => UID.test(uid)))].slice(0, MOST_TAGS);
}

function refreshOf(text: string | null): Refresh | null {
  if (text === null) return null;
  const [tag = '', word] = text.split(':');
  if (UID.test(tag)) {
    const edge = EDGES.find((one) => one === word);
    return edge === undefined ? { tag } : { tag, edge };
  }
  const everyUs = parseDuration(text);
  return everyUs === null || everyUs < SECOND ? null : { everyUs };
}

function triggerText({ tag, edge }: { tag: string; edge?: Edge }): string {
  return edge === undefined ? tag : `${tag}:${edge}`;
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
    window: parseWindow(params) ?? lastOf(DEFAULT_LENGTH_US),
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
    display: parseDisplay(params.get('display')),
    made: parseMade(params.get('made')),
    refresh: refreshOf(params.get('refresh')),
    allow: allowedOf(params.get('only')),
  };
}

/** The address of a state. */
export function stateParams(state: TrendState): URLSearchParams {
  const params = new URLSearchParams();
  if (state.tags !== null) params.set('tags', state.tags.join(','));
  for (const [key, value] of windowParams(state.window)) params.set(key, value);
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
  const display = displayText(state.display);
  if (display !== null) params.set('display', display);
  const made = madeText(state.made);
  if (made !== null) params.set('made', made);
  const { refresh } = state;
  if (refresh !== null) {
    params.set('refresh', 'tag' in refresh ? triggerText(refresh) : durationText(refresh.everyUs));
  }
  if (state.allow !== null) params.set('only', state.allow.join(','));
  return params;
}

/** The span moved by a share of its length. */
export function stepped(span: Span, share: number): WindowChoice {
  const by = (span.endUs - span.startUs) * share;
  return fixedWindow(span.startUs + by, span.endUs + by);
}

/** The span made `factor` times as long around a moment. */
export function zoomed(span: Span, factor: number, aroundUs: number): Span {
  const [before, behind] = [aroundUs - span.startUs, span.endUs - aroundUs];
  return fixedWindow(aroundUs - before * factor, aroundUs + behind * factor);
}

/** The query of a link to look at this view only. */
export function viewOnlyText(state: TrendState, allow: readonly Allowed[]): string {
  return stateParams({ ...state, sheet: null, allow }).toString();
}

/** The stretch between both cursors, or the whole window. */
export function rangeOf(state: Pick<TrendState, 'a' | 'b'>, span: Span): Span {
  const { a, b } = state;
  if (a === null || b === null || a === b) return span;
  return { startUs: Math.min(a, b), endUs: Math.max(a, b) };
}
