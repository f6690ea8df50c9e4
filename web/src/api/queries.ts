/** Queries of more than one feature: key and fetcher together. */
import { keepPreviousData, queryOptions, type QueryClient } from '@tanstack/react-query';
import { client, unwrap, type Tag } from './client';
import { CONFIGURATION, figureIn, windowIn } from './figures';
import type { Span } from '../shared/lib/time';

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

/** Tags by their uids. */
export const tagNamesQuery = (uids: readonly string[]) =>
  queryOptions({
    queryKey: ['tags', 'names', ...uids],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/tags', { params: { query: { uid: [...uids] } }, signal })).tags,
    enabled: uids.length > 0,
    placeholderData: keepPreviousData,
  });

/** The first tags that a text finds. */
export const tagChoiceQuery = (search: string) =>
  queryOptions({
    queryKey: ['tags', 'choice', search],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/tags', { params: { query: { search, limit: 30 } }, signal })).tags,
    placeholderData: keepPreviousData,
  });

/** The only tag that a text finds, for whoever does not wait for the list; null where there are others, or none. */
export async function onlyTag(queries: QueryClient, search: string): Promise<Tag | null> {
  const found = await queries.query(tagChoiceQuery(search));
  return found.length === 1 ? (found[0] ?? null) : null;
}

/** What a formula needs, and what it would be now. */
export const formulaQuery = (formula: string, inputs: Readonly<Record<string, string>>) =>
  queryOptions({
    queryKey: ['formula-check', formula, inputs],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST('/api/formulas/check', { body: { formula, inputs: { ...inputs } }, signal })),
    enabled: formula.trim() !== '',
    retry: false,
    placeholderData: keepPreviousData,
  });

/** What formulas may use. */
export const functionsQuery = queryOptions({
  queryKey: ['formula-functions'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/formulas/functions', { signal })),
  staleTime: Infinity,
});

/** How one figure was made. */
export const explainQuery = (tag: string, stat: string, range: Span, archive = '') =>
  queryOptions({
    queryKey: ['explain', tag, stat, Math.round(range.startUs), Math.round(range.endUs), archive],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/figures/explain', {
          body: {
            tag,
            figure: figureIn(stat),
            window: windowIn(range),
            interval: 0,
            configuration: CONFIGURATION,
            archive,
            exact: false,
          },
          signal,
        }),
      ),
  });
