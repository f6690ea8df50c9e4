/** How the processes, sources and loggers are doing. */
import { queryOptions } from '@tanstack/react-query';
import { SETUP } from './setup';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

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

export type Recorder = components['schemas']['RecorderOut'];

export const recorderQuery = queryOptions({
  queryKey: [SETUP, 'recorder'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/recorder', { signal })),
  refetchInterval: 1_000,
});
