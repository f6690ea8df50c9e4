/** Curves of tags and of derived pens, and readings at an instant. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import { ApiError } from '../platform/errors';
import { fetchCurves, fetchMade, type CurvesRequest, type MadeRequest } from './curves';

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
