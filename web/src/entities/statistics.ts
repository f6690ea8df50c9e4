/** Statistics: sheets, stretches side by side, drill-down, control charts, pairs. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Beside, Line, Norm, StretchKind } from '../domain/sheets';
import type { Span } from '../domain/time';
import { goesOn, type WindowChoice } from '../domain/windows';
import { client, unwrap, type Tag } from '../platform/client';
import type { components } from '../platform/schema';
import { CONFIGURATION, figureIn, windowIn as spanIn } from './figures';
import { windowIn } from './windows';

export type Kind = components['schemas']['KindOut'];

/** What is looked at, and beside what. */
export interface Look {
  window: WindowChoice;
  norm: Norm;
  beside: Beside;
}

/** Stretches of a window side by side. */
export interface StretchesLook extends Look {
  per: StretchKind;
  shift: string;
  runs: readonly string[];
}

export const kindsQuery = queryOptions({
  queryKey: ['statistics', 'kinds'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/statistics/kinds', { signal })),
  staleTime: 30_000,
});

const LIVE_MS = 5_000;

/** The sheet: pieces of equipment in rows, lines in columns. What was asked for stays beside the answer: the one
 * before may still be shown while the next is read, and its figures are those of its own lines. */
export const sheetQuery = (kind: Kind | null, lines: readonly Line[], state: Look) =>
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
            window: windowIn(state.window),
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
    refetchInterval: goesOn(state.window) ? LIVE_MS : false,
    gcTime: 30_000,
  });

/** k of median ± k MAD: three standard deviations of a normal distribution. */
const WIDTHS = 3 * 1.4826;
/** Percent of the tag's range that a band reaches at least. */
const LEAST = 0.5;

/** Tags in rows, statistics in columns. Different tags are no fleet: nothing is learnt from one another. */
export const tagsTableQuery = (tags: readonly Tag[], stats: readonly string[], state: Look) =>
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
            window: windowIn(state.window),
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
    refetchInterval: goesOn(state.window) ? LIVE_MS : false,
    gcTime: 30_000,
  });

export type Stretches = components['schemas']['StretchesOut'];

/** Statistics in rows, stretches of time in columns. */
export const stretchesQuery = (tags: readonly Tag[], stats: readonly string[], state: StretchesLook) =>
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
            window: windowIn(state.window),
            per: state.per,
            shift: state.shift,
            runs: [...state.runs],
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
    refetchInterval: goesOn(state.window) ? 2 * LIVE_MS : false,
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
            window: { ...spanIn(wish.range), split: { interval_us } },
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

/** A figure of the same tag of all pieces, looked at more closely. */
export const closerQuery = (
  tags: readonly string[],
  stat: string,
  range: Span,
  per: StretchKind,
  norm: Norm,
) =>
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

export type Scatter = components['schemas']['ScatterOut'];

/** Pairs of tags against each other. */
export const scatterQuery = (pairs: readonly { x: string; y: string }[], range: Span) =>
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
