/** How the server is asked where a window of the calendar lies. Nothing here waits for a library to be loaded. */
import { WEEKDAYS, type NamedChoice } from '../domain/windows';
import type { components } from '../platform/schema';

type Meaning = components['schemas']['WindowMeaning'];

export function wishOf(window: NamedChoice): {
  unit?: Meaning['unit'];
  which?: Meaning['which'];
  weekday?: number;
  count?: number;
} {
  if (window.kind === 'weekday') return { weekday: WEEKDAYS.indexOf(window.day) + 1 };
  const { unit, which, count } = window;
  return { unit, which, ...(count === undefined ? {} : { count }) };
}

/** The address of the answer, for who asks before there is a page. */
export function namedWindowPath(window: NamedChoice): string {
  const wish = Object.entries(wishOf(window)).map(([name, value]): [string, string] => [name, String(value)]);
  return `/api/windows?${new URLSearchParams(wish).toString()}`;
}
