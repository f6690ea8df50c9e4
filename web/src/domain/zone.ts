/** What the clocks of a zone show, and when they show it. */
import { MINUTE } from './time';

export interface Parts {
  year: number;
  month: number;
  day: number;
  hour: number;
  minute: number;
  second: number;
}

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string): Intl.DateTimeFormat {
  let found = formats.get(zone);
  if (found === undefined) {
    found = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    });
    formats.set(zone, found);
  }
  return found;
}

/** What the clocks show at a moment, µs. */
export function partsOf(us: number, zone: string): Parts {
  const found = format(zone).formatToParts(us / 1000);
  const part = (type: string): number => Number(found.find((one) => one.type === type)?.value ?? 0);
  return {
    year: part('year'),
    month: part('month'),
    day: part('day'),
    hour: part('hour'),
    minute: part('minute'),
    second: part('second'),
  };
}

/** What they show at a moment as if it were UTC, µs; whole seconds. */
function shownAs(us: number, zone: string): number {
  return asUtc(partsOf(us, zone));
}

function asUtc({ year, month, day, hour, minute, second }: Parts): number {
  return Date.UTC(year, month - 1, day, hour, minute, second) * 1000;
}

/** What the clocks are ahead of UTC at a moment, µs. */
export function offsetUs(us: number, zone: string): number {
  const second = Math.floor(us / 1e6) * 1e6;
  return shownAs(second, zone) - second;
}

/** The moment at which the clocks show a time (as if it were UTC, µs); null where they never do. */
export function momentShown(wanted: number, zone: string): number | null {
  // The offset of a moment nearby is at most one step away: two tries find it.
  let us = wanted;
  for (let i = 0; i < 2; i++) us = wanted - offsetUs(us, zone);
  return Math.abs(shownAs(us, zone) - wanted) < MINUTE ? us : null;
}

/** The moment at which the clocks show these parts; null where they never do. Days behind a month's last one are
 * those of the next month. */
export function momentOfParts(parts: Parts, zone: string): number | null {
  return momentShown(asUtc(parts), zone);
}
