import * as wording from 'texts/domain.json';
import { fill } from './fill';

/** Times are UTC microseconds since 1970; as numbers they are exact until the year 2255. */
export const SECOND = 1_000_000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

export interface Span {
  startUs: number;
  endUs: number;
}

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${zone}|${JSON.stringify(options)}`;
  let found = formats.get(key);
  if (found === undefined) {
    found = new Intl.DateTimeFormat('en-GB', { timeZone: zone, hourCycle: 'h23', ...options });
    formats.set(key, found);
  }
  return found;
}

/** 14:05, or 14:05:09, or 14:05:09.250, by what the step between ticks needs. */
export function clockText(us: number, zone: string, stepUs: number): string {
  const options: Intl.DateTimeFormatOptions = { hour: '2-digit', minute: '2-digit' };
  if (stepUs < MINUTE) options.second = '2-digit';
  if (stepUs < SECOND) options.fractionalSecondDigits = 3;
  return format(zone, options).format(us / 1000);
}

/** Mon 23 Nov */
export function dayText(us: number, zone: string): string {
  return format(zone, { weekday: 'short', day: 'numeric', month: 'short' })
    .format(us / 1000)
    .replace(',', '');
}

/** The day where one begins, the clock in between: for ticks that are hours or days apart. */
export function dayOrClockText(us: number, zone: string): string {
  const clock = clockText(us, zone, MINUTE);
  return clock === '00:00' ? dayText(us, zone) : clock;
}

/** Mon 23 Nov 14:05:09, with milliseconds where a second is too coarse. */
export function momentText(us: number, zone: string, stepUs = SECOND): string {
  return `${dayText(us, zone)} ${clockText(us, zone, stepUs)}`;
}

/** 1 h 30 min; at most two units. */
export function lengthText(us: number): string {
  const units: [number, string][] = [
    [DAY, 'd'],
    [HOUR, 'h'],
    [MINUTE, 'min'],
    [SECOND, 's'],
  ];
  const parts: string[] = [];
  let left = Math.round(us / 1000) * 1000;
  for (const [size, name] of units) {
    const count = Math.floor(left / size);
    if (count > 0 && parts.length < 2) parts.push(`${count} ${name}`);
    left -= count * size;
  }
  if (parts.length > 0) return parts.join(' ');
  return fill(wording.usMs, { us: Math.round(us / 1000) });
}

const DURATION = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?)?$/;

/** An ISO 8601 duration of days and smaller in µs, or null when it is none or not longer than nothing. */
export function parseDuration(text: string): number | null {
  const match = DURATION.exec(text);
  if (match === null) return null;
  const [, days = '0', hours = '0', minutes = '0', seconds = '0'] = match;
  const us = Number(days) * DAY + Number(hours) * HOUR + Number(minutes) * MINUTE + Number(seconds) * SECOND;
  return us > 0 ? Math.round(us) : null;
}

/** The ISO 8601 duration of a length. */
export function durationText(us: number): string {
  const days = Math.floor(us / DAY);
  const rest = us - days * DAY;
  const hours = Math.floor(rest / HOUR);
  const minutes = Math.floor((rest - hours * HOUR) / MINUTE);
  const seconds = (rest - hours * HOUR - minutes * MINUTE) / SECOND;
  const clock = `${hours > 0 ? `${hours}H` : ''}${minutes > 0 ? `${minutes}M` : ''}${seconds > 0 ? `${seconds}S` : ''}`;
  return `P${days > 0 ? `${days}D` : ''}${clock === '' ? '' : `T${clock}`}`;
}

/** ISO 8601 with microseconds, in UTC. */
export function isoText(us: number): string {
  const whole = Math.floor(us / SECOND);
  const fraction = String(us - whole * SECOND).padStart(6, '0');
  return `${new Date(whole * 1000).toISOString().slice(0, 19)}.${fraction}Z`;
}

/** µs of an ISO 8601 time with zone, or null. */
export function parseIso(text: string): number | null {
  const match = /^(.+?)(?:\.(\d{1,6}))?(Z|[+-]\d{2}:\d{2})$/.exec(text);
  if (match === null) return null;
  const [, clock = '', fraction = '', zone = ''] = match;
  const ms = Date.parse(`${clock}${zone}`);
  return Number.isNaN(ms) ? null : ms * 1000 + Number(fraction.padEnd(6, '0'));
}
