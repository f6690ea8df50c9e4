/** How the processes, sources and loggers are doing. The live connection tells it; it is asked for once, and while there
 * is no connection. */
import { queryOptions, useQuery, useQueryClient, type UseQueryResult } from '@tanstack/react-query';
import { useEffect } from 'react';
import { client, unwrap, type Health } from '../platform/client';
import { live } from '../platform/live';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

/** When the server's clock was read, by its own clock and between two looks at the browser's. */
export interface ClockReading {
  nowUs: number;
  askedMs: number;
  answeredMs: number;
}

const WITHOUT_LINK_MS = 2_000;
/** A minute more is there after so long. */
const HOUR_MS = 30_000;
/** So often the clocks are compared. */
const CLOCK_MS = 300_000;

/** Health also answers 503, with a body that says what is wrong: that is an answer, not an error. */
export const healthQuery = queryOptions({
  queryKey: ['health'],
  queryFn: async ({ signal }): Promise<Health & { clock: ClockReading }> => {
    const askedMs = Date.now();
    const { data, error, response } = await client.GET('/api/health', { signal });
    const read = (health: Health): Health & { clock: ClockReading } => ({
      ...health,
      clock: { nowUs: Number(health.now_us), askedMs, answeredMs: Date.now() },
    });
    if (response.status === 503 && error !== undefined && 'database' in error) return read(error);
    return read(unwrap({ ...(data === undefined ? {} : { data }), error, response }));
  },
  refetchInterval: () => (live.link === 'open' ? CLOCK_MS : WITHOUT_LINK_MS),
  retry: false,
});

export type Recorder = components['schemas']['RecorderOut'];

const recorderQuery = queryOptions({
  queryKey: [SETUP, 'recorder'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/recorder', { signal })),
});

export type RecorderMinute = components['schemas']['RecorderMinuteOut'];

/** How the recorder did in each of the last sixty minutes. */
export const recorderHourQuery = queryOptions({
  queryKey: [SETUP, 'recorder hour'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/recorder/hour', { signal })),
  refetchInterval: HOUR_MS,
});

/** The recorder in full, followed as long as somebody looks at it. */
export function useRecorder(): UseQueryResult<Recorder> {
  const queries = useQueryClient();
  useEffect(() => {
    const follower = live.follow(
      { onState: (_, state) => queries.setQueryData(recorderQuery.queryKey, state as Recorder) },
      { topics: ['recorder'] },
    );
    return () => follower.end();
  }, [queries]);
  return useQuery(recorderQuery);
}
