import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap, type Tag } from '../../api/client';
import { CONFIGURATION, figureIn, windowIn as spanIn } from '../../api/figures';
import type { components } from '../../api/schema';
import type { Span } from '../../shared/lib/time';
import type { Kind } from './lanes';
import { isLive, type Line, type Norm, type SheetState } from './state';
import type { NamedPair, Per } from './drilldown';

type WindowIn = components['schemas']['WindowIn'];

export const kindsQuery = queryOptions({
  queryKey: ['statistics', 'kinds'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/statistics/kinds', { signal })),
  staleTime: 30_000,
});

const LIVE_MS = 5_000;

/** The sheet: pieces of equipment in rows, lines in columns. What was asked for stays beside the answer: the one
 * before may still be shown while the next is read, and its figures are those of its own lines. */
export const sheetQuery = (kind: Kind | null, lines: readonly Line[], state: SheetState) =>
  queryOptions({
    queryKey: [
      'statistics',
      'sheet',
      kind?.name,
      kind?.equipment,
      lines,
      state.window,
      state.norm,
      state.beside,
    ],
    queryFn: async ({ signal }) => {
      if (kind === null) throw new Error('no equipment yet');
      const members = new Map(kind.members.map((member) => [member.name, member]));
      const sheet = unwrap(
        await client.POST('/api/statistics/sheet', {
          body: {
            rows: kind.equipment.map((name, place) => ({
              name,
              tags: lines.map((line) => members.get(line.member)?.tags[place] ?? null),
            })),
            columns: lines.map(({ stat }) => ({
              figure: figureIn(stat),
              norm: { kind: state.norm, widths: WIDTHS, least: LEAST },
            })),
            window: windowIn(state),
            reference: state.norm === 'earlier' ? 'before' : null,
            beside: state.beside === 'none' ? null : state.beside,
            configuration: CONFIGURATION,
            exact: false,
          },
          signal,
        }),
      );
      return { kind, lines, sheet };
    },
    enabled: kind !== null && lines.length > 0,
    placeholderData: keepPreviousData,
    refetchInterval: isLive(state) ? LIVE_MS : false,
    gcTime: 30_000,
  });

/** k of median ± k MAD: three standard deviations of a normal distribution. */
const WIDTHS = 3 * 1.4826;
/** Percent of the tag's range that a band reaches at least. */
const LEAST = 0.5;

function windowIn({ window }: SheetState): WindowIn {
  const split = { interval_us: 0 };
  if (window.kind === 'last') return { last_us: window.lengthUs, which: 'this', split };
  if (window.kind === 'unit') return { unit: window.unit, which: window.which, split };
  return { start_us: window.startUs, end_us: window.endUs, which: 'this', split };
}

/** Tags in rows, statistics in columns. Different tags are no fleet: nothing is learnt from one another. */
export const tagsTableQuery = (tags: readonly Tag[], stats: readonly string[], state: SheetState) =>
  queryOptions({
    queryKey: ['statistics', 'tags', uidsOf(tags), stats, state.window, state.norm, state.beside],
    queryFn: async ({ signal }) => {
      const kind = state.norm === 'fleet' ? ('none' as const) : state.norm;
      const sheet = unwrap(
        await client.POST('/api/statistics/sheet', {
          body: {
            rows: tags.map(({ name, uid }) => ({ name, tags: stats.map(() => uid) })),
            columns: stats.map((stat) => ({
              figure: figureIn(stat),
              norm: { kind, widths: WIDTHS, least: LEAST },
            })),
            window: windowIn(state),
            reference: kind === 'earlier' ? 'before' : null,
            beside: state.beside === 'none' ? null : state.beside,
            configuration: CONFIGURATION,
            exact: false,
          },
          signal,
        }),
      );
      return { tags, stats, sheet };
    },
    enabled: tags.length > 0 && stats.length > 0,
    placeholderData: keepPreviousData,
    refetchInterval: isLive(state) ? LIVE_MS : false,
    gcTime: 30_000,
  });

export type Stretches = components['schemas']['StretchesOut'];

/** Statistics in rows, stretches of time in columns. */
export const stretchesQuery = (tags: readonly Tag[], stats: readonly string[], state: SheetState) =>
  queryOptions({
    queryKey: [
      ...['statistics', 'stretches', uidsOf(tags), stats, state.window, state.norm, state.per],
      ...[state.shift, state.runs],
    ],
    queryFn: async ({ signal }) => {
      const kind = state.norm === 'earlier' ? 'fleet' : state.norm;
      const rows = tags.flatMap((tag) => stats.map((stat) => ({ tag, stat })));
      const found = unwrap(
        await client.POST('/api/statistics/stretches', {
          body: {
            rows: rows.map(({ tag, stat }) => ({ name: tag.name, tag: tag.uid, figure: figureIn(stat) })),
            window: windowIn(state),
            ...{ per: state.per, shift: state.shift, runs: [...state.runs] },
            norm: { kind, widths: WIDTHS, least: LEAST },
            configuration: CONFIGURATION,
          },
          signal,
        }),
      );
      return { rows, found };
    },
    enabled: tags.length > 0 && stats.length > 0,
    placeholderData: keepPreviousData,
    refetchInterval: isLive(state) ? 2 * LIVE_MS : false,
    gcTime: 30_000,
    retry: false,
  });

function uidsOf(tags: readonly Tag[]): string[] {
  return tags.map(({ uid }) => uid);
}

export const CHARTS = ['individuals', 'means', 'ewma', 'cusum'] as const;
export type ChartKind = (typeof CHARTS)[number];

/** Of what a control chart is drawn. */
export interface ControlWish {
  tag: string;
  stat: string;
  range: Span;
  chart: ChartKind;
  /** Limits come from the window before. */
  before: boolean;
}

/** So many stretches make the points of a chart. */
const POINTS = 60;

export const controlQuery = (wish: ControlWish) =>
  queryOptions({
    queryKey: ['statistics', 'control', wish],
    queryFn: async ({ signal }) => {
      const { startUs, endUs } = wish.range;
      const interval_us = Math.max(Math.floor((endUs - startUs) / POINTS), 1);
      return unwrap(
        await client.POST('/api/statistics/control', {
          body: {
            tag: wish.tag,
            figure: figureIn(wish.stat),
            window: { start_us: startUs, end_us: endUs, which: 'this', split: { interval_us } },
            reference: wish.before ? 'before' : null,
            chart: wish.chart,
            size: 5,
            rules: [1, 2, 3, 5, 6],
            weight: 0.3,
            allowance: 0.5,
            limit: 4,
            configuration: CONFIGURATION,
          },
          signal,
        }),
      );
    },
    placeholderData: keepPreviousData,
    retry: false,
  });

export type Report = components['schemas']['ReportOut'];
export type ReportIn = components['schemas']['ReportIn'];
export type Issue = components['schemas']['IssueOut'];

export const reportsQuery = queryOptions({
  queryKey: ['reports', 'set up'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/reports', { signal })),
});

/** The newest reports that were made. */
export const issuesQuery = queryOptions({
  queryKey: ['reports', 'made'],
  queryFn: async ({ signal }) =>
    unwrap(await client.GET('/api/reports/made', { params: { query: { limit: 60 } }, signal })),
  refetchInterval: 15_000,
});

export const runRulesQuery = queryOptions({
  queryKey: ['run-rules'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/runs', { signal })),
});

export const statisticsSheetsQuery = queryOptions({
  queryKey: ['sheets', 'statistics'],
  queryFn: async ({ signal }) =>
    unwrap(await client.GET('/api/sheets', { params: { query: { page: 'statistics' } }, signal })),
});

/** A figure of the same tag of all pieces, looked at more closely. */
export const closerQuery = (tags: readonly string[], stat: string, range: Span, per: Per, norm: Norm) =>
  queryOptions({
    queryKey: ['statistics', 'drilldown', tags, stat, range, per, norm],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/statistics/drilldown', {
          body: {
            tags: [...tags],
            figure: figureIn(stat),
            window: spanIn(range),
            per,
            // Stretches are compared with their like: of earlier ones nothing is learnt.
            norm: { kind: norm === 'earlier' ? 'fleet' : norm, widths: 4.4478, least: 0.5 },
            configuration: CONFIGURATION,
          },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** The newest runs that hold a text. */
export const runsQuery = (search: string) =>
  queryOptions({
    queryKey: ['runs', 'of statistics', search],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/runs', { params: { query: { search, limit: 60 } }, signal })).runs,
    placeholderData: keepPreviousData,
  });

export type Scatter = components['schemas']['ScatterOut'];

/** Pairs of tags against each other. */
export const scatterQuery = (pairs: readonly NamedPair[], range: Span) =>
  queryOptions({
    queryKey: ['statistics', 'scatter', pairs, range],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/statistics/scatter', {
          body: {
            pairs: pairs.map(({ x, y }) => ({ x, y })),
            window: spanIn(range),
            points: 300,
            configuration: CONFIGURATION,
          },
          signal,
        }),
      ),
    enabled: pairs.length > 0,
    placeholderData: keepPreviousData,
  });
