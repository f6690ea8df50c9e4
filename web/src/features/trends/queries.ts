import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap, type Tag } from '../../api/client';
import { ApiError } from '../../api/errors';
import { fetchCurves, fetchMade, type CurvesRequest, type MadeRequest } from '../../api/curves';
import { CONFIGURATION, figureIn, windowIn } from '../../api/figures';
import type { components } from '../../api/schema';
import type { Span } from '../../shared/lib/time';

const PAGE = 100;

export const tagSearchQuery = (search: string) =>
  infiniteQueryOptions({
    queryKey: ['tags', 'search', search],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/tags', {
          params: { query: { search, limit: PAGE, offset: pageParam } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, _, offset) => (offset + PAGE < last.total ? offset + PAGE : undefined),
    placeholderData: keepPreviousData,
  });

/** The tags a trend shows before any were chosen: the first analog ones and the first contacts. */
export const defaultTagsQuery = queryOptions({
  queryKey: ['tags', 'default'],
  queryFn: async ({ signal }) => {
    const page = unwrap(await client.GET('/api/tags', { params: { query: { limit: PAGE } }, signal }));
    const recorded = page.tags.filter((tag) => tag.recorded.length > 0);
    const clocked = (tag: Tag): boolean => tag.recorded.some((one) => one.mode === 'periodic');
    const floats = recorded.filter((tag) => tag.value_type === 'float');
    const analog = [...floats.filter(clocked), ...floats.filter((tag) => !clocked(tag))].slice(0, 4);
    const device = analog[0]?.source;
    const contacts = recorded
      .filter((tag) => tag.value_type === 'boolean' && (device === undefined || tag.source === device))
      .slice(0, 3);
    return [...analog, ...contacts].map((tag) => tag.uid);
  },
  staleTime: Infinity,
});

export const curvesQuery = (request: CurvesRequest | null) =>
  queryOptions({
    queryKey: ['curves', request],
    queryFn: ({ signal }) => {
      if (request === null) throw new Error('no window yet');
      return fetchCurves(request, signal);
    },
    enabled: request !== null && request.tags.length > 0 && request.width > 0,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
    staleTime: Infinity,
    // While the server is away the old picture stays, and the new one comes as soon as it can.
    retry: (_, error) => !(error instanceof ApiError && error.status < 500),
    retryDelay: (count) => Math.min(250 * 2 ** count, 2_000),
  });

export const madeQuery = (request: MadeRequest | null) =>
  queryOptions({
    queryKey: ['made', request],
    queryFn: ({ signal }) => {
      if (request === null) throw new Error('no window yet');
      return fetchMade(request, signal);
    },
    enabled: request !== null,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });

export const readingsQuery = (
  tags: readonly string[],
  atUs: number | null,
  archive: readonly string[] = [],
) =>
  queryOptions({
    queryKey: ['readings', atUs, tags, archive],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/series/at', {
          params: { query: { tag: [...tags], at: Math.round(atUs ?? 0), archive: [...archive] } },
          signal,
        }),
      ),
    enabled: atUs !== null && tags.length > 0,
    gcTime: 10_000,
  });

/** By tag, the archives that are chosen for pens. */
export const archivesByTag = (
  cards: readonly { archive: string; trace: { tag: { uid: string } } }[],
): Record<string, string> =>
  Object.fromEntries(
    cards.filter((card) => card.archive !== '').map((card) => [card.trace.tag.uid, card.archive]),
  );

/** Figures of tags over a stretch, or over its intervals, seen at one instant. */
export const figuresQuery = (
  tags: readonly string[],
  stats: readonly string[],
  range: Span,
  intervalUs = 0,
  archives: Readonly<Record<string, string>> = {},
) =>
  queryOptions({
    queryKey: [
      ...['figures', tags, stats, Math.round(range.startUs), Math.round(range.endUs), intervalUs],
      archives,
    ],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/figures', {
          body: {
            tags: [...tags],
            figures: stats.map((stat) => figureIn(stat)),
            windows: [{ ...windowIn(range), split: { interval_us: intervalUs } }],
            configuration: CONFIGURATION,
            archive: '',
            archives: { ...archives },
            exact: false,
          },
          signal,
        }),
      ),
    enabled: tags.length > 0 && stats.length > 0,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });

export const sheetsQuery = queryOptions({
  queryKey: ['sheets'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/sheets', { signal })),
});

export type Note = components['schemas']['NoteOut'];

/** Notes that touch a stretch. */
export const notesQuery = (span: Span, search: string) =>
  queryOptions({
    queryKey: ['notes', Math.floor(span.startUs), Math.ceil(span.endUs), search],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/notes', {
          params: {
            query: { start: Math.floor(span.startUs), end: Math.ceil(span.endUs), search },
          },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });

/** Runs that touch a stretch: the newest of them. */
export const runsQuery = (span: Span) =>
  queryOptions({
    queryKey: ['runs', 'rail', Math.floor(span.startUs), Math.ceil(span.endUs)],
    queryFn: async ({ signal }) => {
      const query = { start: Math.floor(span.startUs), end: Math.ceil(span.endUs), limit: 60 };
      return unwrap(await client.GET('/api/runs', { params: { query }, signal })).runs;
    },
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
    gcTime: 30_000,
  });

/** The loggers that take records. */
export const recordLoggersQuery = queryOptions({
  queryKey: ['records', 'loggers', 'pens'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/records', { signal })),
});

/** The columns of a logger's records. */
export const recordColumnsQuery = (logger: string) =>
  queryOptions({
    queryKey: ['records', 'columns', logger],
    queryFn: async ({ signal }) => {
      const params = { path: { logger }, query: { limit: 1 } };
      return unwrap(await client.GET('/api/records/{logger}', { params, signal })).columns;
    },
    enabled: logger !== '',
  });
