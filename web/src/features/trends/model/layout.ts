/** How the strips of a sheet lie: under each other, or beside each other with windows of their own. */
import { durationText, isoText, parseDuration, parseIso, SECOND, type Span } from '../../../domain/time';
import { fixedWindow } from '../../../domain/windows';

/** What a dragged tag is, to whom it is dropped on. */
export const TAG_DRAG = 'application/x-cronaca-tag';

/** A length that ends now, at a moment, or so long before the end of the sheet's window. */
export interface OwnWindow {
  lengthUs: number;
  end: { kind: 'now' } | { kind: 'moment'; atUs: number } | { kind: 'before'; us: number };
}

export interface Strip {
  title: string;
  /** Its pens; null: all that no other strip names. */
  pens: string[] | null;
  /** Its height beside that of the others. */
  share: number;
  /** It lies beside the strip before it, not under it. */
  beside: boolean;
  /** null: it follows the time rail. */
  window: OwnWindow | null;
  /** Its curves have markers of their own forms. */
  markers: boolean;
  /** It has a grid, where the sheet has one. */
  grid: boolean;
}

export const ONE_STRIP: Strip = {
  title: '',
  pens: null,
  share: 1,
  beside: false,
  window: null,
  markers: false,
  grid: true,
};
export const MOST_STRIPS = 8;
const [LEAST_SHARE, MOST_SHARE] = [0.2, 5];
const UID = /^[0-9a-f-]{36}$/;
const LONGEST_TITLE = 80;

/** The strips in a link; what cannot be used is left out. None: one strip shows everything. */
export function parseStrips(text: string | null): Strip[] {
  if (text === null) return [];
  try {
    const found = JSON.parse(text) as unknown;
    return Array.isArray(found) ? found.slice(0, MOST_STRIPS).map(parseStrip) : [];
  } catch {
    return [];
  }
}

function parseStrip(found: unknown): Strip {
  const details = typeof found === 'object' && found !== null ? found : {};
  const { title, pens, share, beside, last, to, before, markers, grid } = details as Record<string, unknown>;
  return {
    title: typeof title === 'string' ? title.slice(0, LONGEST_TITLE) : '',
    pens: Array.isArray(pens) ? pens.filter((one) => typeof one === 'string' && UID.test(one)) : null,
    share: typeof share === 'number' && Number.isFinite(share) ? boundShare(share) : 1,
    beside: beside === true,
    window: windowIn(last, to, before),
    markers: markers === true,
    grid: grid !== false,
  };
}

function windowIn(last: unknown, to: unknown, before: unknown): OwnWindow | null {
  const lengthUs = typeof last === 'string' ? parseDuration(last) : null;
  if (lengthUs === null || lengthUs < SECOND) return null;
  const atUs = typeof to === 'string' ? parseIso(to) : null;
  if (atUs !== null) return { lengthUs, end: { kind: 'moment', atUs } };
  // No duration is none: the strip ends with the sheet.
  const us = before === 'PT0S' ? 0 : typeof before === 'string' ? parseDuration(before) : null;
  return { lengthUs, end: us === null ? { kind: 'now' } : { kind: 'before', us } };
}

/** Where a strip of a sheet lies in time. */
export function spanOfStrip({ lengthUs, end }: OwnWindow, sheet: Span, nowUs: number): Span {
  const endUs = end.kind === 'now' ? nowUs : end.kind === 'moment' ? end.atUs : sheet.endUs - end.us;
  return { startUs: endUs - lengthUs, endUs };
}

/** A strip that is moved by hand: one that hangs on the sheet's end goes on to do so. */
export function movedTo(own: OwnWindow, span: Span, sheet: Span): OwnWindow {
  const { startUs, endUs } = fixedWindow(span.startUs, span.endUs);
  const lengthUs = Math.max(endUs - startUs, SECOND);
  if (own.end.kind !== 'before') return { lengthUs, end: { kind: 'moment', atUs: endUs } };
  return { lengthUs, end: { kind: 'before', us: Math.max(Math.round(sheet.endUs - endUs), 0) } };
}

export function boundShare(share: number): number {
  return Math.min(Math.max(Math.round(share * 100) / 100, LEAST_SHARE), MOST_SHARE);
}

/** The strips as they travel; nothing when there is one that shows everything. */
export function stripsText(strips: readonly Strip[]): string | null {
  if (strips.length === 0) return null;
  return JSON.stringify(
    strips.map(({ title, pens, share, beside, window, markers, grid }) => ({
      ...(title === '' ? {} : { title }),
      ...(pens === null ? {} : { pens }),
      ...(share === 1 ? {} : { share }),
      ...(beside ? { beside } : {}),
      ...(markers ? { markers } : {}),
      ...(grid ? {} : { grid }),
      ...(window === null ? {} : { last: durationText(window.lengthUs) }),
      ...(window?.end.kind === 'moment' ? { to: isoText(window.end.atUs) } : {}),
      ...(window?.end.kind === 'before' ? { before: beforeText(window.end.us) } : {}),
    })),
  );
}

function beforeText(us: number): string {
  return us === 0 ? 'PT0S' : durationText(us);
}

/** Rows from top to bottom, each with its strips from left to right by their places in the list. */
export function rowsOf(strips: readonly Strip[]): number[][] {
  const rows: number[][] = [];
  strips.forEach((strip, i) => {
    const row = rows.at(-1);
    if (strip.beside && row !== undefined) row.push(i);
    else rows.push([i]);
  });
  return rows;
}

/** Which of the tags each strip shows. What no strip names is on those that take all others, or on the first. */
export function pensOf(strips: readonly Strip[], uids: readonly string[]): string[][] {
  const named = new Set(strips.flatMap((strip) => strip.pens ?? []));
  const others = uids.filter((uid) => !named.has(uid));
  const taken = strips.some((strip) => strip.pens === null);
  return strips.map(({ pens }, i) => {
    if (pens === null) return others;
    const own = uids.filter((uid) => pens.includes(uid));
    return i === 0 && !taken ? [...own, ...others] : own;
  });
}

/** The tag put on one strip more, or taken off it. */
export function withPen(strips: readonly Strip[], place: number, uid: string, shown: boolean): Strip[] {
  return strips.map((strip, i) => {
    if (i !== place || strip.pens === null) return strip;
    const others = strip.pens.filter((one) => one !== uid);
    return { ...strip, pens: shown ? [...others, uid] : others };
  });
}

/** The strips with other tags in the place of some. */
export function exchangedPens(strips: readonly Strip[], others: ReadonlyMap<string, string>): Strip[] {
  return strips.map((strip) => ({
    ...strip,
    pens: strip.pens === null ? null : [...new Set(strip.pens.map((uid) => others.get(uid) ?? uid))],
  }));
}

/** A strip changed. */
export function changed(strips: readonly Strip[], place: number, change: Partial<Strip>): Strip[] {
  return strips.map((strip, i) => (i === place ? { ...strip, ...change } : strip));
}

/** A strip made higher, or lower where `by` is below 0. */
export function higher(strips: readonly Strip[], place: number, by: number): Strip[] {
  return changed(strips, place, { share: boundShare((strips[place]?.share ?? 1) + by) });
}

/** A strip once more, below itself. */
export function copiedStrip(strips: readonly Strip[], place: number): Strip[] {
  return strips.flatMap((strip, i) => (i === place ? [strip, { ...strip, beside: false }] : [strip]));
}

/** One strip exchanged with its neighbour; the first one never lies beside another. */
export function movedStrip(strips: readonly Strip[], place: number, by: 1 | -1): Strip[] {
  const other = place + by;
  const [a, b] = [strips[place], strips[other]];
  if (a === undefined || b === undefined) return [...strips];
  const next = strips.map((strip, i) => (i === place ? b : i === other ? a : strip));
  return next.map((strip, i) => (i === 0 ? { ...strip, beside: false } : strip));
}

/** The strips as they are edited: one that shows everything is a strip too. */
export function editable(strips: readonly Strip[]): readonly Strip[] {
  return strips.length === 0 ? [ONE_STRIP] : strips;
}

/** As kept: a single strip without anything of its own needs not be said. */
export function kept(strips: readonly Strip[]): Strip[] {
  const [only] = strips;
  const plain = strips.length === 1 && stripsText([{ ...ONE_STRIP, ...only, share: 1 }]) === '[{}]';
  return strips.length === 0 || plain ? [] : [...strips];
}
