/** What the set-up's pages ask for. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../../api/client';
import type { components } from '../../api/schema';

type Schemas = components['schemas'];
export type Source = Schemas['ModbusSourceOut' | 'OpcUaSourceOut' | 'OwnSourceOut'];
export type SourceIn = Schemas['ModbusSourceIn' | 'OpcUaSourceIn' | 'OwnSourceIn'];
/** What to try of a source. */
export type Trial = Schemas['ModbusTrial' | 'OpcUaTrial' | 'OwnTrial'];
export type TagRow = Schemas['TagRowOut'];
export type TagIn = Schemas['TagIn'];
export type OnChangeLogger = Schemas['OnChangeLoggerOut'];
export type TriggeredLogger = Schemas['OnTriggerLoggerOut'];
export type Logger =
  OnChangeLogger | TriggeredLogger | Schemas['PeriodicLoggerOut' | 'PrePostTriggerLoggerOut'];
export type LoggerIn = Schemas[
  'PeriodicLoggerIn' | 'OnChangeLoggerIn' | 'OnTriggerLoggerIn' | 'PrePostTriggerLoggerIn'];
export type Trigger = Schemas['TriggerIn'];
export type Rule = Schemas['RuleIn'];
export type RunRule = Schemas['RunRuleOut'];
export type RunRuleIn = Schemas['RunRuleIn'];
export type Archive = Schemas['ArchiveOut'];
export type ArchiveIn = Schemas['ArchiveIn'];
export type Recorder = Schemas['RecorderOut'];
/** A generated signal. */
export type Signal = Schemas['GeneratorAddressModel'];
export type Rehearsal = Schemas['RehearseOut'];
export type Change = Schemas['ChangeOut'];
export type ImportReport = Schemas['ImportOut'];
export type Tested = Schemas['TestOut'];
export type Offer = Schemas['Offer'];
export type UaNode = Schemas['NodeOut'];
export type DocumentReport = Schemas['DocumentReport'];

const PAGE = 200;
/** Everything under this key is asked for anew after a change. */
export const SETUP = 'setup';

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

export const recorderQuery = queryOptions({
  queryKey: [SETUP, 'recorder'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/recorder', { signal })),
  refetchInterval: 1_000,
});

export const sourcesQuery = queryOptions({
  queryKey: [SETUP, 'sources'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/sources', { signal })),
});

export const archivesQuery = queryOptions({
  queryKey: [SETUP, 'archives'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/archives', { signal })),
});

/** What the limits of an archive would delete now. */
export const retentionQuery = (uid: string, form: ArchiveIn) => {
  const query = {
    thin: form.thin,
    ...(form.keep_us == null ? {} : { keep_us: form.keep_us }),
    ...(form.keep_bytes == null ? {} : { keep_bytes: form.keep_bytes }),
  };
  return queryOptions({
    queryKey: [SETUP, 'retention', uid, query],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/setup/archives/{uid}/retention', { params: { path: { uid }, query }, signal }),
      ),
    placeholderData: keepPreviousData,
  });
};

export const loggersQuery = queryOptions({
  queryKey: [SETUP, 'loggers'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/loggers', { signal })),
});

export const runRulesQuery = queryOptions({
  queryKey: [SETUP, 'run-rules'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/runs', { signal })),
});

export const equipmentQuery = queryOptions({
  queryKey: [SETUP, 'equipment'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/tags/equipment', { signal })),
});

export const classesQuery = queryOptions({
  queryKey: [SETUP, 'classes'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/classes', { signal })),
});

export const equipmentOfClassQuery = (uid: string) =>
  queryOptions({
    queryKey: [SETUP, 'equipment', uid],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/setup/classes/{uid}/equipment', { params: { path: { uid } }, signal })),
  });

/** Equipment that is alike and of no class yet. */
export const alikeQuery = queryOptions({
  queryKey: [SETUP, 'kinds'],
  queryFn: async ({ signal }) => {
    const kinds = unwrap(await client.GET('/api/statistics/kinds', { signal }));
    return kinds.filter((one) => one.equipment_class == null && one.equipment.length > 1);
  },
});

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

/** Names of the tags with these uids, of at most 64 of them. */
export const changesQuery = (kind: string) =>
  infiniteQueryOptions({
    queryKey: [SETUP, 'changes', kind],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/setup/changes', {
          params: { query: { kind, limit: 100, ...(pageParam === 0 ? {} : { before: pageParam }) } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < 100 ? undefined : last.at(-1)?.change_id),
  });

/** The first tags that hold a text. */

/** Where a tag has no data in the last day, and why. */
export const coverageQuery = (tag: string) =>
  queryOptions({
    queryKey: [SETUP, 'coverage', tag],
    queryFn: async ({ signal }) => {
      const end = Date.now() * 1000;
      const query = { tag, start: end - 86_400_000_000, end };
      return unwrap(await client.GET('/api/history/coverage', { params: { query }, signal }));
    },
    refetchInterval: 5_000,
  });
