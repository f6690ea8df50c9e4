/** Where a tag is recorded, and where not. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import { SETUP } from './setup';

/** Where a tag has no data in the last day, and why. */
export const coverageQuery = (tag: string) =>
  queryOptions({
    queryKey: [SETUP, 'coverage', tag],
    queryFn: async ({ signal }) => {
      const end = Date.now() * 1000;
      const query = { tag, start: end - 86_400_000_000, end };
      return unwrap(await client.GET('/api/history/coverage', { params: { query }, signal }));
    },
  });
