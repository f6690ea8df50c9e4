/** The rows of a table of samples that is read as one scrolls, and follows the present. */
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { HOUR, SECOND, type Span } from '../../domain/time';
import { live } from '../../platform/live';
import { freshSamplesQuery, samplesQuery, type SampleGap, type SampleRow, type Wish } from './rows';

export interface SampleRows {
  rows: readonly SampleRow[];
  gaps: readonly SampleGap[];
  /** The rows are those of what was asked for. */
  isKnown: boolean;
  error: Error | null;
  /** Null: these are all. */
  onMore: (() => void) | null;
  isBusy: boolean;
  /** What lies before was not looked through yet. */
  reachedUs: number | null;
}

/** So many rows are asked for again and again, at most; then only the newest of them are. */
const MOST_FRESH = 800;
const FRESH_LEFT = 300;
/** What was recorded in the last minute may still be on its way. */
const LATE_US = 60_000_000;
const PAUSE_MS = 500;

/** `key`: tells the window apart; `isLive`: it ends now. */
export function useSampleRows(wish: Wish, span: Span | null, key: string, isLive: boolean): SampleRows {
  const own = JSON.stringify([wish, key]);
  // Older rows are read from the moment on at which these were asked for; what comes later is added.
  const [anchor, setAnchor] = useState({ own: '', span: NOWHERE });
  const isPlaced = span !== null && anchor.own === own;
  const follows = isLive && wish.order === 'newest';
  const older = useInfiniteQuery({
    ...samplesQuery(wish, anchor.span, `${key} ${anchor.span.endUs}`),
    enabled: isPlaced,
  });
  const fresh = useQuery(freshSamplesQuery(wish, Math.ceil(anchor.span.endUs), isPlaced && follows));
  const came = follows && !fresh.isPlaceholderData ? (fresh.data?.rows ?? NONE) : NONE;
  const isAtTop = (older.data?.pages.length ?? 0) <= 1 && !older.isFetching;
  if (span !== null && !isPlaced) {
    setAnchor({ own, span: { ...span, endUs: follows ? beforeLate(span) : span.endUs } });
  } else if (span !== null && isLive && !follows && isAtTop && isDue(anchor.span, span)) {
    setAnchor({ own, span });
  } else if (came.length > MOST_FRESH) {
    setAnchor({ own, span: { ...anchor.span, endUs: Number(came[FRESH_LEFT]?.t_us) } });
  }
  useNewSamples(wish.tags, isPlaced && follows, fresh.refetch);
  const pages = older.data?.pages;
  const news = follows ? fresh.data : undefined;
  const rows = useMemo(
    () => [...(news?.rows ?? []), ...(pages?.flatMap((page) => page.rows) ?? [])],
    [news, pages],
  );
  const gaps = useMemo(
    () => [...(news?.gaps ?? []), ...(pages?.flatMap((page) => page.gaps) ?? [])],
    [news, pages],
  );
  const reached = pages?.at(-1)?.next_end_us ?? null;
  return {
    rows,
    gaps,
    isKnown: pages !== undefined && !older.isPlaceholderData,
    error: older.error ?? fresh.error,
    onMore: older.hasNextPage && !older.isFetching ? () => void older.fetchNextPage() : null,
    isBusy: older.isFetching,
    reachedUs: reached === null ? null : Number(reached),
  };
}

const NONE: never[] = [];
const NOWHERE: Span = { startUs: 0, endUs: 1 };

/** Whether rows ordered by value are read anew: those of a long window take longer than they change. */
const isDue = (before: Span, now: Span): boolean =>
  now.endUs - before.endUs >= (now.endUs - now.startUs <= 2 * HOUR ? 3 : 30) * SECOND;

const beforeLate = ({ startUs, endUs }: Span): number => Math.floor(Math.max(startUs + 1, endUs - LATE_US));

/** Asks anew when one of the tags has a new value, not more often than people can read. */
function useNewSamples(tags: readonly string[], isOn: boolean, onNew: () => unknown): void {
  const uids = tags.join(',');
  useEffect(() => {
    if (!isOn) return undefined;
    let timer: number | undefined;
    const soon = (): void => {
      timer ??= window.setTimeout(() => {
        timer = undefined;
        void onNew();
      }, PAUSE_MS);
    };
    const follower = live.follow({ onValues: soon, onResync: soon }, { values: uids.split(',') });
    return () => {
      window.clearTimeout(timer);
      follower.end();
    };
  }, [uids, isOn, onNew]);
}
