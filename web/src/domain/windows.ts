/** Windows of time with their meaning, as people choose them: what they are now changes with the clock. The server
 * resolves what the plant's calendar says; the rest is arithmetic. */
import * as common from 'texts/common.json';
import * as wording from 'texts/domain.json';
import { fill } from './fill';
import { DAY, durationText, isoText, lengthText, parseDuration, parseIso, SECOND, type Span } from './time';

export const UNITS = ['hour', 'shift', 'day', 'week', 'month'] as const;
export type Unit = (typeof UNITS)[number];
export const WEEKDAYS = [
  'monday',
  'tuesday',
  'wednesday',
  'thursday',
  'friday',
  'saturday',
  'sunday',
] as const;
export type Weekday = (typeof WEEKDAYS)[number];

/** A length until so long before now (0: now); from a moment until now; from the last beginning of a weekday until
 * now; this or the last unit of the plant's calendar, or the last `count` of them; from one moment to another. */
export type WindowChoice =
  | { kind: 'last'; lengthUs: number; agoUs: number }
  | { kind: 'since'; startUs: number }
  | { kind: 'weekday'; day: Weekday }
  | { kind: 'unit'; unit: Unit; which: 'this' | 'last'; count?: number }
  | { kind: 'fixed'; startUs: number; endUs: number };

/** A window that the server resolves. */
export type NamedChoice = Extract<WindowChoice, { kind: 'unit' | 'weekday' }>;

export const SHORTEST_US = SECOND / 1000;
export const LONGEST_US = 30 * 366 * 86_400 * SECOND;

/** The last so long, until now. */
export function lastOf(lengthUs: number): WindowChoice {
  return { kind: 'last', lengthUs, agoUs: 0 };
}

/** A window from one moment to another, kept inside what can be asked for. */
export function fixedWindow(startUs: number, endUs: number): WindowChoice & { kind: 'fixed' } {
  const length = Math.min(Math.max(endUs - startUs, SHORTEST_US), LONGEST_US);
  const start = Math.max(0, Math.round((startUs + endUs - length) / 2));
  return { kind: 'fixed', startUs: start, endUs: start + Math.round(length) };
}

/** Whether a window moves with the clock. */
export function goesOn(window: WindowChoice): boolean {
  if (window.kind === 'unit') return window.which === 'this';
  return window.kind !== 'fixed';
}

/** The window that goes on in the place of one that stands still: the one that was left by standing still, or as much
 * until now as is shown, where that is another length. */
export function resumed(left: WindowChoice | null, shown: Span): WindowChoice {
  const lengthUs = shown.endUs - shown.startUs;
  if (left === null || (left.kind === 'last' && left.lengthUs !== lengthUs)) return lastOf(lengthUs);
  return left;
}

/** Whether the server has to say where it lies. */
export function isNamed(window: WindowChoice): window is NamedChoice {
  return window.kind === 'unit' || window.kind === 'weekday';
}

/** Where a window lies now; null: the server has not resolved it yet (`named`). */
export function spanAt(window: WindowChoice, nowUs: number, named: Span | null): Span | null {
  switch (window.kind) {
    case 'last':
      return { startUs: nowUs - window.agoUs - window.lengthUs, endUs: nowUs - window.agoUs };
    case 'since':
      return { startUs: Math.min(window.startUs, nowUs - SECOND), endUs: nowUs };
    case 'fixed':
      return { startUs: window.startUs, endUs: window.endUs };
    default:
      if (named === null) return null;
      return goesOn(window) ? { ...named, endUs: Math.max(nowUs, named.startUs + SECOND) } : named;
  }
}

/** Tells lists of windows apart: that of a window that goes on stays the same one while it does. */
export function listKey(window: WindowChoice | null, span: Span | null): string {
  if (window === null || span === null) return '';
  if (window.kind === 'last') return new URLSearchParams(windowParams(window)).toString();
  return goesOn(window) ? `${span.startUs}` : `${span.startUs} ${span.endUs}`;
}

/** Where the list of a window is asked for. One that ends now has no end: what begins a moment later is in it too. */
export function listSpan(window: WindowChoice | null, span: Span | null): Span | null {
  if (window === null || span === null) return null;
  const endsNow = goesOn(window) && !(window.kind === 'last' && window.agoUs > 0);
  return endsNow ? { ...span, endUs: span.endUs + DAY } : span;
}

/** A stretch as the server's lists take it; null: all of history. */
export function stretchIn(span: Span | null): { start?: number; end?: number } {
  return span === null ? {} : { start: Math.floor(span.startUs), end: Math.ceil(span.endUs) };
}

/** The names under which a window stands in an address. */
const KEYS = ['last', 'ago', 'since', 'window', 'from', 'to', 'held'] as const;

/** A window as it stands in an address. */
export function windowParams(window: WindowChoice): [string, string][] {
  switch (window.kind) {
    case 'last': {
      const last: [string, string] = ['last', durationText(window.lengthUs)];
      return window.agoUs === 0 ? [last] : [last, ['ago', durationText(window.agoUs)]];
    }
    case 'since':
      return [['since', isoText(window.startUs)]];
    case 'weekday':
      return [['since', window.day]];
    case 'unit':
      return [['window', `${window.which} ${several(window.count)}${window.unit}`]];
    case 'fixed':
      return [
        ['from', isoText(window.startUs)],
        ['to', isoText(window.endUs)],
      ];
  }
}

/** The window in an address; null: it says none that can be used. Addresses of earlier versions are read too. */
export function parseWindow(params: URLSearchParams): WindowChoice | null {
  return fixedIn(params) ?? unitIn(params) ?? sinceIn(params) ?? lastIn(params);
}

/** The same address with another window. */
export function withWindow(params: URLSearchParams, window: WindowChoice | null): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const key of KEYS) next.delete(key);
  for (const [key, value] of window === null ? [] : windowParams(window)) next.set(key, value);
  return next;
}

function fixedIn(params: URLSearchParams): WindowChoice | null {
  // As statistics wrote it before: two moments in µs.
  const held = (params.get('held') ?? '').split('/').map(Number);
  const [from, to] =
    held.length === 2 ? held : [parseIso(params.get('from') ?? ''), parseIso(params.get('to') ?? '')];
  if (from == null || to == null || !(from >= 0)) return null;
  const length = to - from;
  return length >= SHORTEST_US && length <= LONGEST_US ? { kind: 'fixed', startUs: from, endUs: to } : null;
}

function unitIn(params: URLSearchParams): WindowChoice | null {
  const [, which, count, unit] = /^(this|last) (?:(\d{1,3}) )?(\w+)$/.exec(params.get('window') ?? '') ?? [];
  const found = UNITS.find((one) => one === unit);
  if (found === undefined || (which !== 'this' && which !== 'last')) return null;
  const many = which === 'last' && Number(count) > 1 ? { count: Math.min(Number(count), MOST_UNITS) } : {};
  return { kind: 'unit', unit: found, which, ...many };
}

/** So many shifts, days … make a window at most. */
const MOST_UNITS = 400;

function several(count = 1): string {
  return count > 1 ? `${count} ` : '';
}

function sinceIn(params: URLSearchParams): WindowChoice | null {
  const text = params.get('since') ?? '';
  const day = WEEKDAYS.find((one) => one === text);
  if (day !== undefined) return { kind: 'weekday', day };
  const startUs = parseIso(text);
  return startUs === null ? null : { kind: 'since', startUs };
}

function lastIn(params: URLSearchParams): WindowChoice | null {
  const lengthUs = parseDuration(params.get('last') ?? '');
  if (lengthUs === null || lengthUs < SECOND || lengthUs > LONGEST_US) return null;
  const agoUs = parseDuration(params.get('ago') ?? '') ?? 0;
  return agoUs > LONGEST_US ? null : { kind: 'last', lengthUs, agoUs };
}

export function sameWindow(one: WindowChoice, two: WindowChoice): boolean {
  return JSON.stringify(windowParams(one)) === JSON.stringify(windowParams(two));
}

const OF_CALENDAR: Readonly<Record<Unit, { this: string; last: string; several: string }>> = {
  hour: { this: wording.thisHour, last: wording.lastHour, several: wording.lastHours },
  shift: { this: wording.thisShift, last: wording.lastShift, several: wording.lastShifts },
  day: { this: wording.today, last: wording.yesterday, several: wording.lastDays },
  week: { this: wording.thisWeek, last: wording.lastWeek, several: wording.lastWeeks },
  month: { this: wording.thisMonth, last: wording.lastMonth, several: wording.lastMonths },
};

const SINCE_WEEKDAY: Readonly<Record<Weekday, string>> = {
  monday: wording.mondayUntilNow,
  tuesday: wording.tuesdayUntilNow,
  wednesday: wording.wednesdayUntilNow,
  thursday: wording.thursdayUntilNow,
  friday: wording.fridayUntilNow,
  saturday: wording.saturdayUntilNow,
  sunday: wording.sundayUntilNow,
};

/** What a window is called; '' for one that is only its two moments. */
export function windowName(window: WindowChoice): string {
  switch (window.kind) {
    case 'last': {
      const last = fill(wording.lastLength, { length: lengthText(window.lengthUs) });
      return window.agoUs === 0
        ? last
        : fill(wording.lastUntilLengthAgo, { last, length: lengthText(window.agoUs) });
    }
    case 'since':
      return common.untilNow;
    case 'weekday':
      return SINCE_WEEKDAY[window.day];
    case 'unit':
      return (window.count ?? 1) > 1
        ? fill(OF_CALENDAR[window.unit].several, { count: window.count ?? 1 })
        : OF_CALENDAR[window.unit][window.which];
    case 'fixed':
      return '';
  }
}
