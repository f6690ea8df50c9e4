/** Tags: found, set up, written to. */
import {
  infiniteQueryOptions,
  keepPreviousData,
  queryOptions,
  type QueryClient,
} from '@tanstack/react-query';
import { client, unwrap, type Tag } from '../platform/client';
import { ApiError } from '../platform/errors';
import { DEFAULT_TAGS_AMONG, defaultTags } from './defaultTags';
import { request } from '../platform/request';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

type Schemas = components['schemas'];
export type TagRow = Schemas['TagRowOut'];
export type TagIn = Schemas['TagIn'];
export type ImportReport = Schemas['ImportOut'];
const PAGE = 200;
const SEARCH_PAGE = 100;

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

export const tagSearchQuery = (search: string) =>
  infiniteQueryOptions({
    queryKey: ['tags', 'search', search],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/tags', {
          params: { query: { search, limit: SEARCH_PAGE, offset: pageParam } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, _, offset) =>
      offset + SEARCH_PAGE < last.total ? offset + SEARCH_PAGE : undefined,
    placeholderData: keepPreviousData,
  });

/** The tags a trend shows before any were chosen. */
export const defaultTagsQuery = queryOptions({
  queryKey: ['tags', 'default'],
  queryFn: async ({ signal }) => {
    const params = { query: { limit: DEFAULT_TAGS_AMONG } };
    return defaultTags(unwrap(await client.GET('/api/tags', { params, signal })).tags);
  },
  staleTime: Infinity,
});

export interface TagFilter {
  search: string;
  source: string;
  value_type: string;
  equipment: string;
  recorded: string;
}

export const NO_FILTER: TagFilter = { search: '', source: '', value_type: '', equipment: '', recorded: '' };

/** The filter as the API takes it. */
export function filterQuery(filter: TagFilter): {
  search: string;
  source: string;
  equipment: string;
  value_type?: TagIn['value_type'];
  recorded?: boolean;
} {
  const { search, source, equipment } = filter;
  return {
    search,
    source,
    equipment,
    ...(filter.value_type === '' ? {} : { value_type: filter.value_type as TagIn['value_type'] }),
    ...(filter.recorded === '' ? {} : { recorded: filter.recorded === 'yes' }),
  };
}

export const tagRowsQuery = (filter: TagFilter) =>
  infiniteQueryOptions({
    queryKey: [SETUP, 'tags', filter],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/setup/tags', {
          params: { query: { ...filterQuery(filter), limit: PAGE, offset: pageParam } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, _, offset) => (offset + PAGE < last.total ? offset + PAGE : undefined),
    placeholderData: keepPreviousData,
  });

/** The filter in an address; what it does not say is not filtered by. */
export function parseFilter(params: URLSearchParams): TagFilter {
  const keys = Object.keys(NO_FILTER) as (keyof TagFilter)[];
  return Object.fromEntries(keys.map((key) => [key, params.get(key) ?? ''])) as unknown as TagFilter;
}

/** The address of a filter. */
export function withFilter(params: URLSearchParams, filter: TagFilter): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const [key, value] of Object.entries(filter) as [string, string][]) {
    if (value === '') next.delete(key);
    else next.set(key, value);
  }
  return next;
}

/** One tag, wherever it stands in the list. */
export const tagRowQuery = (uid: string | null) =>
  queryOptions({
    queryKey: [SETUP, 'tags', 'one', uid],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/setup/tags/{uid}', { params: { path: { uid: uid ?? '' } }, signal })),
    enabled: uid !== null,
  });

/** The tag that was added last to a source; null where it has none. */
export const lastTagQuery = (source: string) =>
  queryOptions({
    queryKey: [SETUP, 'tags', 'last', source],
    queryFn: async ({ signal }) => {
      const params = { query: { source } };
      return unwrap(await client.GET('/api/setup/tags/newest', { params, signal })).tags[0] ?? null;
    },
    enabled: source !== '',
  });

export const equipmentQuery = queryOptions({
  queryKey: [SETUP, 'equipment'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/tags/equipment', { signal })),
});

/** The uids of all tags that a filter finds. */
export async function findUids(filter: TagFilter): Promise<string[]> {
  return unwrap(await client.GET('/api/setup/tags/uids', { params: { query: filterQuery(filter) } }));
}

/** What adding tags would add, for looking at it before. */
export type TagsIn = Schemas['TagsIn'];
export type TagsOut = Schemas['TagsOut'];

export const newTagsPreview = (body: Schemas['TagsIn'], signal: AbortSignal): Promise<Schemas['TagsOut']> =>
  addTags({ ...body, logger: null, dry_run: true }, signal);

export async function addTags(body: Schemas['TagsIn'], signal?: AbortSignal): Promise<Schemas['TagsOut']> {
  return unwrap(await client.POST('/api/setup/tags', { body, ...(signal === undefined ? {} : { signal }) }));
}

/** Temporary tags stay from now on. */
export async function keepTags(uids: readonly string[]): Promise<void> {
  await client.POST('/api/setup/tags/keep', { body: { uids: [...uids] } });
}

export async function changeTags(body: Schemas['TagsChange']): Promise<Schemas['ChangesOut']> {
  return unwrap(await client.PATCH('/api/setup/tags', { body }));
}

/** What goes with tags that are removed; without `dry_run` they are. */
export async function removeTags(body: Schemas['TagsRemoval']): Promise<Schemas['RemovalOut']> {
  return unwrap(await client.POST('/api/setup/tags/remove', { body }));
}

export async function writeValue(uid: string, value: number): Promise<void> {
  await client.PUT('/api/setup/tags/{uid}/value', { params: { path: { uid } }, body: { value } });
}

/** Other equipment that has tags of the same names, and how many. */
export const sisterEquipmentQuery = (tags: readonly string[]) =>
  queryOptions({
    queryKey: [SETUP, 'sister equipment', tags],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST('/api/tags/sisters/equipment', { body: { tags: [...tags] }, signal })),
  });

/** Tags of the same names of another equipment: by tag, null where there is none. */
export async function findSisters(
  tags: readonly string[],
  equipment: string,
): Promise<readonly (readonly [string, string | null])[]> {
  const body = { tags: [...tags], equipment };
  const { sisters } = unwrap(await client.POST('/api/tags/sisters', { body }));
  return tags.map((uid, i) => [uid, sisters[i] ?? null] as const);
}

export type ImportColumns = Schemas['ColumnsOut'];
export type ImportMapping = ImportColumns['mapping'];

// A type of its own: other web pages cannot send it without asking first.
const FILE = { 'content-type': 'application/octet-stream' };

/** The columns of a file, and which of our fields they are. */
export async function readColumns(file: File): Promise<ImportColumns> {
  const path = '/api/setup/tags/import/columns';
  const answer = await request(path, { method: 'POST', headers: FILE, body: file });
  const body: unknown = await answer.json();
  if (!answer.ok) throw ApiError.from(answer.status, body);
  return body as ImportColumns;
}

/** What a tag file would do; with `write` it does. `onClash`: what becomes of tags that are there already; `mapping`: which
 * of its columns is which field, where they are not ours. */
export async function importTags(
  file: File | null,
  wish: { onClash: string; prefix: string; write: boolean; mapping: ImportMapping | null },
): Promise<ImportReport> {
  const { onClash, prefix, write, mapping } = wish;
  const query = new URLSearchParams({ on_clash: onClash, prefix, write: String(write) });
  if (mapping !== null) query.set('mapping', JSON.stringify(mapping));
  const answer = await request(`/api/setup/tags/import?${query}`, {
    method: 'POST',
    headers: FILE,
    body: file,
  });
  const body: unknown = await answer.json();
  if (!answer.ok) throw ApiError.from(answer.status, body);
  return body as ImportReport;
}
