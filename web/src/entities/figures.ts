/** Figures: in the form of the server, over a stretch, and how one was made. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Span } from '../domain/time';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export type FigureIn = components['schemas']['FigureIn'];
export const CONFIGURATION = {
  treat_uncertain_as_bad: false,
  percent_good: 100,
  percent_bad: 100,
  sloped_extrapolation: false,
};

/** A figure from its name and its options in one line: Percentile 95, Median samples, Integral hour, TimeInState 2. */
export function figureIn(text: string): FigureIn {
  const [stat = '', ...words] = text.split(' ');
  const figure: FigureIn = { stat, percent: 50, weight: 'time', bins: 20, base_us: 60_000_000 };
  for (const word of words) {
    if (word === 'samples' || word === 'time') figure.weight = word;
    else if (word === 'second' || word === 'minute' || word === 'hour') figure.base = word;
    else figure[stat === 'Percentile' ? 'percent' : 'state'] = Number(word);
  }
  return figure;
}

export function windowIn(range: Span): components['schemas']['WindowIn'] {
  const [start_us, end_us] = [Math.round(range.startUs), Math.round(range.endUs)];
  return { start_us, end_us, ago_us: 0, which: 'this', count: 1, split: { interval_us: 0 } };
}

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

/** Figures of tags over a stretch, or over its intervals, seen at one instant. */
export const figuresQuery = (
  tags: readonly string[],
  stats: readonly string[],
  range: Span,
  intervalUs = 0,
  archives: Readonly<Record<string, string>> = {},
) =>
  queryOptions({
    queryKey: [
      ...['figures', tags, stats, Math.round(range.startUs), Math.round(range.endUs), intervalUs],
      archives,
    ],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/figures', {
          body: {
            tags: [...tags],
            figures: stats.map((stat) => figureIn(stat)),
            windows: [{ ...windowIn(range), split: { interval_us: intervalUs } }],
            configuration: CONFIGURATION,
            archive: '',
            archives: { ...archives },
            exact: false,
          },
          signal,
        }),
      ),
    enabled: tags.length > 0 && stats.length > 0,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
