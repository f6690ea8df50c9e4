/** Queries of more than one feature: key and fetcher together. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from './client';

export const plantQuery = queryOptions({
  queryKey: ['plant'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/plant', { signal })),
  staleTime: 60_000,
});

/** Health also answers 503, with a body that says what is wrong: that is an answer, not an error. */
export const healthQuery = queryOptions({
  queryKey: ['health'],
  queryFn: async ({ signal }) => {
    const askedMs = Date.now();
    const { data, error, response } = await client.GET('/api/health', { signal });
    const answeredMs = Date.now();
    if (response.status === 503 && error !== undefined && 'database' in error) {
      return { ...error, askedMs, answeredMs };
    }
    const health = unwrap({ ...(data === undefined ? {} : { data }), error, response });
    return { ...health, askedMs, answeredMs };
  },
  refetchInterval: 2_000,
  retry: false,
});
