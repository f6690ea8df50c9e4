/** Windows of the plant's calendar, and windows as people type them: the server says where they lie. */
import { keepPreviousData, queryOptions, useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { DAY, type Span } from '../domain/time';
import { isNamed, spanAt, WEEKDAYS, type NamedChoice, type WindowChoice } from '../domain/windows';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { wishOf } from './namedWindow';

type NamedWindow = components['schemas']['NamedWindow'];
type Meaning = components['schemas']['WindowMeaning'];

/** Beginning of the keys of all queries of windows. */
export const WINDOWS = 'windows';

/** Where a window of the calendar lies; asked for anew when it becomes another. */
export const namedWindowQuery = (window: NamedChoice | null) =>
  queryOptions({
    queryKey: [WINDOWS, window],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/windows', {
          params: { query: window === null ? {} : wishOf(window) },
          signal,
        }),
      ),
    enabled: window !== null,
    staleTime: Infinity,
    refetchInterval: (query) => waitMs(query.state.data),
    // A page that was in the background when a shift ended shows the new one when somebody looks at it again.
    refetchIntervalInBackground: true,
  });

const LEAST_WAIT_MS = 5_000;
/** A timer of a browser does not go further than some weeks. */
const MOST_WAIT_MS = DAY / 1_000;

function waitMs(found: NamedWindow | undefined): number | false {
  if (found?.changes_us == null) return false;
  const left = Number(found.changes_us) / 1_000 - Date.now();
  return Math.min(Math.max(left + 500, LEAST_WAIT_MS), MOST_WAIT_MS);
}

export interface PlacedWindow {
  /** Null: not known yet. */
  span: Span | null;
  error: Error | null;
}

/** Where a window lies at a moment. */
export function useSpan(window: WindowChoice, nowUs: number): PlacedWindow {
  const { data, error } = useQuery(namedWindowQuery(isNamed(window) ? window : null));
  const span = useMemo(() => spanAt(window, nowUs, spanOf(data)), [window, nowUs, data]);
  return { span, error: isNamed(window) ? error : null };
}

function spanOf(found: NamedWindow | undefined): Span | null {
  return found === undefined ? null : { startUs: Number(found.start_us), endUs: Number(found.end_us) };
}

/** A window as it was understood. */
export interface Understood {
  window: WindowChoice;
  /** With the plant's clock, for who has typed it. */
  text: string;
}

/** Whose list is asked for: what tells it apart, and where the window lies when it is asked for (null: all). */
export interface ListOf {
  key: string;
  span: Span | null;
  isKnown: boolean;
}

/** What a text means beside the window that is shown. */
export const typedWindowQuery = (text: string, shown: Span) =>
  queryOptions({
    queryKey: [WINDOWS, 'typed', text, Math.round(shown.startUs), Math.round(shown.endUs)],
    queryFn: async ({ signal }): Promise<Understood> => {
      const query = { text, start: Math.round(shown.startUs), end: Math.round(shown.endUs) };
      const found = unwrap(await client.GET('/api/windows', { params: { query }, signal }));
      return { window: choiceOf(found.meaning), text: found.text };
    },
    enabled: text.trim() !== '',
    gcTime: 10_000,
    placeholderData: keepPreviousData,
  });

function choiceOf(meaning: Meaning): WindowChoice {
  const { last_us, ago_us, start_us, end_us, unit, which, weekday, count } = meaning;
  if (last_us !== null) return { kind: 'last', lengthUs: Number(last_us), agoUs: Number(ago_us) };
  if (unit !== null) return { kind: 'unit', unit, which, ...(count > 1 ? { count } : {}) };
  const day = WEEKDAYS[(weekday ?? 0) - 1];
  if (day !== undefined) return { kind: 'weekday', day };
  const startUs = Number(start_us);
  return end_us === null ? { kind: 'since', startUs } : { kind: 'fixed', startUs, endUs: Number(end_us) };
}

/** A window as the server's figures take it. */
export function windowIn(window: WindowChoice): components['schemas']['WindowIn'] {
  const plain = { which: 'this' as const, ago_us: 0, count: 1, split: { interval_us: 0 } };
  switch (window.kind) {
    case 'last':
      return { ...plain, last_us: window.lengthUs, ago_us: window.agoUs };
    case 'since':
      return { ...plain, start_us: Math.round(window.startUs) };
    case 'fixed':
      return { ...plain, start_us: Math.round(window.startUs), end_us: Math.round(window.endUs) };
    default:
      return { ...plain, ...wishOf(window) };
  }
}
