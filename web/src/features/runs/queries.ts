/** What the page of runs asks for. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../../api/client';
import type { components } from '../../api/schema';

export type Run = components['schemas']['RunOut'];
export type RunAttribute = components['schemas']['RunAttributeOut'];
export const RUNS = 'runs';
const PAGE = 100;

export const runRulesQuery = queryOptions({
  queryKey: [RUNS, 'rules'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/runs', { signal })),
});

export const runsQuery = (search: string, rule: string) =>
  infiniteQueryOptions({
    queryKey: [RUNS, 'list', search, rule],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/runs', {
          params: { query: { search, rule, limit: PAGE, before: pageParam } },
          signal,
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (last) => last.before ?? undefined,
    placeholderData: keepPreviousData,
    refetchInterval: 2_000,
  });
