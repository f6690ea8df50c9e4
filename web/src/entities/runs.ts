/** Runs, and the rules that find them. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Span } from '../domain/time';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { SETUP } from './setup';
import { stretchIn } from '../domain/windows';
import type { ListOf } from './windows';

export type Run = components['schemas']['RunOut'];
export type RunAttribute = components['schemas']['RunAttributeOut'];
export type RunRule = components['schemas']['RunRuleOut'];
export type RunRuleIn = components['schemas']['RunRuleIn'];
export const RUNS = 'runs';
const PAGE = 100;

export const runRulesQuery = queryOptions({
  queryKey: [SETUP, 'run-rules'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/runs', { signal })),
});

/** Runs that touch a stretch, or all, by pages, newest first, followed. */
export const runPagesQuery = (search: string, rule: string, of: ListOf) =>
  infiniteQueryOptions({
    queryKey: [RUNS, 'list', search, rule, of.key],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/runs', {
          params: { query: { search, rule, ...stretchIn(of.span), limit: PAGE, before: pageParam } },
          signal,
        }),
      ),
    initialPageParam: '',
    getNextPageParam: (last) => last.before ?? undefined,
    placeholderData: keepPreviousData,
    enabled: of.isKnown,
  });

/** The newest runs that hold a text. */
export const runsByTextQuery = (search: string) =>
  queryOptions({
    queryKey: [RUNS, 'by text', search],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/runs', { params: { query: { search, limit: 60 } }, signal })).runs,
    placeholderData: keepPreviousData,
  });

/** Runs that touch a stretch: the newest of them. */
export const runsInQuery = (span: Span) =>
  queryOptions({
    queryKey: [RUNS, 'rail', Math.floor(span.startUs), Math.ceil(span.endUs)],
    queryFn: async ({ signal }) => {
      const query = { start: Math.floor(span.startUs), end: Math.ceil(span.endUs), limit: 200 };
      return unwrap(await client.GET('/api/runs', { params: { query }, signal })).runs;
    },
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });

/** The runs of a stretch once, at most 500. */
export async function findRuns(span: Span): Promise<Run[]> {
  const query = { start: Math.floor(span.startUs), end: Math.ceil(span.endUs), limit: 500 };
  return unwrap(await client.GET('/api/runs', { params: { query } })).runs;
}

/** Begins a run now: the server says when, for the clock of this machine may be off. */
export async function beginRun(name: string): Promise<Run> {
  return unwrap(await client.POST('/api/runs', { body: { name } }));
}

export async function changeRun(run: Run, name: string, ends_now: boolean): Promise<Run> {
  const body = { name, end_us: run.end_us, ends_now };
  return unwrap(await client.PATCH('/api/runs/{uid}', { params: { path: { uid: run.uid } }, body }));
}

export async function removeRun({ uid }: Run): Promise<void> {
  await client.DELETE('/api/runs/{uid}', { params: { path: { uid } } });
}

/** Saves a rule: a new one, or in place of the one that was seen. */
export async function saveRunRule(seen: RunRule | null, body: RunRuleIn): Promise<RunRule> {
  if (seen === null) return unwrap(await client.POST('/api/setup/runs', { body }));
  const params = { path: { uid: seen.uid } };
  return unwrap(
    await client.PUT('/api/setup/runs/{uid}', { params, body: { ...body, revision: seen.revision } }),
  );
}

export async function removeRunRule({ uid, revision }: RunRule): Promise<void> {
  await client.DELETE('/api/setup/runs/{uid}', { params: { path: { uid }, query: { revision } } });
}
