/** Samples of tags as rows of a table, newest first. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Span } from '../../domain/time';
import { client, unwrap } from '../../platform/client';
import type { components } from '../../platform/schema';

type Schemas = components['schemas'];
export type SampleRow = Schemas['SampleRowOut'];
export type SampleCell = Schemas['SampleCell'];
export type SampleGap = Schemas['SampleGap'];
export type SamplesPageData = Schemas['SamplesOut'];
export type SampleFigures = Schemas['SampleFiguresOut'];

export const SAMPLES = 'samples';

/** Which samples are shown, and how. */
export interface Wish {
  tags: readonly string[];
  /** A row is a sample, a time of one, or a time of a grid. */
  layout: 'sample' | 'time' | 'grid';
  stepUs: number;
  between: 'held' | 'interpolated';
  order: 'newest' | 'largest' | 'smallest';
  value: string;
  quality: 'any' | 'good' | 'uncertain' | 'bad' | 'not_good';
}

const PAGE = 200;
const MOST = 1000;

export const chosen = ({ tags, value, quality }: Wish) => ({ tag: [...tags], value, quality });
export const shaped = ({ layout, stepUs, between, order }: Wish) => ({
  layout,
  step_us: stepUs,
  between,
  order,
});

/** Rows of other tags would stand in the wrong columns. */
function hasSameCells(wish: Wish, asked: unknown): boolean {
  const before = asked as Wish | undefined;
  return before?.layout === wish.layout && before.tags.join() === wish.tags.join();
}

interface Place {
  endUs: number;
  offset: number;
}

/** Pages from the end of a stretch on; `key`: what tells the stretch apart. */
export const samplesQuery = (wish: Wish, span: Span, key: string) =>
  infiniteQueryOptions({
    queryKey: [SAMPLES, 'pages', wish, key],
    queryFn: async ({ pageParam, signal }) => {
      const query = {
        ...{ ...chosen(wish), ...shaped(wish), limit: PAGE },
        ...{ start: Math.floor(span.startUs), end: pageParam.endUs, offset: pageParam.offset },
      };
      return unwrap(await client.GET('/api/samples', { params: { query }, signal }));
    },
    initialPageParam: { endUs: Math.ceil(span.endUs), offset: 0 },
    getNextPageParam: (last, _, before): Place | null => placeAfter(wish, last, before),
    placeholderData: (before, query) => (hasSameCells(wish, query?.queryKey[2]) ? before : undefined),
    enabled: wish.tags.length > 0,
  });

/** What came after a moment. */
export const freshSamplesQuery = (wish: Wish, sinceUs: number, isLive: boolean) =>
  queryOptions({
    queryKey: [SAMPLES, 'fresh', wish, sinceUs],
    queryFn: async ({ signal }) => {
      const query = {
        ...chosen(wish),
        ...shaped(wish),
        limit: MOST,
        start: sinceUs,
        end: sinceUs + LATER_US,
      };
      return unwrap(await client.GET('/api/samples', { params: { query }, signal }));
    },
    enabled: isLive && wish.tags.length > 0,
    placeholderData: (before, query) => (hasSameCells(wish, query?.queryKey[2]) ? before : undefined),
  });
const LATER_US = 86_400_000_000;

/** Figures of all samples that match in a stretch. */
export const sampleFiguresQuery = (wish: Wish, span: Span, key: string, everyMs: number | false) =>
  queryOptions({
    queryKey: [SAMPLES, 'figures', chosen(wish), key],
    queryFn: async ({ signal }) => {
      const query = { ...chosen(wish), start: Math.floor(span.startUs), end: Math.ceil(span.endUs) };
      return unwrap(await client.GET('/api/samples/figures', { params: { query }, signal }));
    },
    enabled: wish.tags.length > 0,
    refetchInterval: everyMs,
    placeholderData: keepPreviousData,
  });

/** The first rows of a stretch, in their order, as many as go on paper, and whether these are all. */
export async function readRows(
  wish: Wish,
  span: Span,
  most: number,
): Promise<Pick<SamplesPageData, 'rows' | 'gaps'> & { isAll: boolean }> {
  const rows: SampleRow[] = [];
  const gaps: SampleGap[] = [];
  let place: Place | null = { endUs: Math.ceil(span.endUs), offset: 0 };
  while (place !== null && rows.length < most) {
    const query = {
      ...{ ...chosen(wish), ...shaped(wish), limit: Math.min(MOST, most - rows.length) },
      ...{ start: Math.floor(span.startUs), end: place.endUs, offset: place.offset },
    };
    const page: SamplesPageData = unwrap(await client.GET('/api/samples', { params: { query } }));
    rows.push(...page.rows);
    gaps.push(...page.gaps);
    place = placeAfter(wish, page, place);
  }
  return { rows: rows.slice(0, most), gaps, isAll: place === null && rows.length <= most };
}

/** Where the next page begins; null: this was the last one. */
function placeAfter(wish: Wish, page: SamplesPageData, before: Place): Place | null {
  if (page.next_end_us === null) return null;
  if (wish.order === 'newest') return { endUs: Number(page.next_end_us), offset: 0 };
  return { ...before, offset: before.offset + page.rows.length };
}
