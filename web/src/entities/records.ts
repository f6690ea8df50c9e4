/** Records of loggers that take them at a trigger. */
import { infiniteQueryOptions, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import { stretchIn } from '../domain/windows';
import type { ListOf } from './windows';
import type { components } from '../platform/schema';

export type RecordPageData = components['schemas']['RecordPage'];
export type RecordLine = components['schemas']['RecordOut'];
export type RecordColumn = components['schemas']['ColumnOut'];

const PAGE = 200;

/** The loggers that take records. */
export const recordLoggersQuery = queryOptions({
  queryKey: ['records', 'loggers'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/records', { signal })),
});

/** Which records are shown, and in which order. */
export interface RecordsLook {
  /** What a cell, the number or the trigger holds. */
  search: string;
  /** number, time, reason, or the number of a column; null: newest first. */
  order: { by: string; descending: boolean } | null;
}

/** What of a look the server is told. */
export function lookIn({ search, order }: RecordsLook): {
  search?: string;
  order?: string;
  descending?: boolean;
} {
  return {
    ...(search === '' ? {} : { search }),
    ...(order === null ? {} : { order: order.by, descending: order.descending }),
  };
}

/** Of a stretch, or all; asked for anew whenever the number of records has changed. Newest first, pages go on below a
 * number; in another order, after so many. */
export const recordsQuery = (logger: string, count: number, of: ListOf, look: RecordsLook) =>
  infiniteQueryOptions({
    queryKey: ['records', logger, count, of.key, look],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/records/{logger}', {
          params: {
            path: { logger },
            query: {
              limit: PAGE,
              ...stretchIn(of.span),
              ...lookIn(look),
              ...(pageParam === 0 ? {} : look.order === null ? { before: pageParam } : { skip: pageParam }),
            },
          },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      if (last.records.length < PAGE) return undefined;
      return look.order === null ? last.records.at(-1)?.number : pages.length * PAGE;
    },
    placeholderData: (before) => (before?.pages[0]?.columns === undefined ? undefined : before),
    enabled: logger !== '' && of.isKnown,
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
