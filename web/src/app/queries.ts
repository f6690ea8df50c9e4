import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../api/client';

export const meQuery = queryOptions({
  queryKey: ['me'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/me', { signal })),
  staleTime: Infinity,
});
