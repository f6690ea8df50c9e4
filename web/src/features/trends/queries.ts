import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../../api/client';
import { ApiError } from '../../api/errors';
import { fetchCurves, type CurvesRequest } from '../../api/curves';

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

export const tagsQuery = (uids: readonly string[]) =>
  queryOptions({
    queryKey: ['tags', 'uids', ...uids],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/tags', { params: { query: { uid: [...uids] } }, signal })).tags,
    enabled: uids.length > 0,
    placeholderData: keepPreviousData,
  });

/** The tags a trend shows before any were chosen: the first analog ones and the first contacts. */
export const defaultTagsQuery = queryOptions({
  queryKey: ['tags', 'default'],
  queryFn: async ({ signal }) => {
    const page = unwrap(await client.GET('/api/tags', { params: { query: { limit: PAGE } }, signal }));
    const recorded = page.tags.filter((tag) => tag.recorded.length > 0);
    const analog = recorded.filter((tag) => tag.value_type === 'float').slice(0, 4);
    const contacts = recorded.filter((tag) => tag.value_type === 'boolean').slice(0, 3);
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

export const readingsQuery = (tags: readonly string[], atUs: number | null) =>
  queryOptions({
    queryKey: ['readings', atUs, ...tags],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/series/at', {
          params: { query: { tag: [...tags], at: Math.round(atUs ?? 0) } },
          signal,
        }),
      ),
    enabled: atUs !== null && tags.length > 0,
    gcTime: 10_000,
  });
