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

/** Of a stretch, or all; asked for anew whenever the number of records has changed. */
export const recordsQuery = (logger: string, count: number, of: ListOf) =>
  infiniteQueryOptions({
    queryKey: ['records', logger, count, of.key],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/records/{logger}', {
          params: {
            path: { logger },
            query: { limit: PAGE, ...stretchIn(of.span), ...(pageParam === 0 ? {} : { before: pageParam }) },
          },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.records.length < PAGE ? undefined : last.records.at(-1)?.number),
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
