/** How often contacts and states changed: in each hour, shift, day or week of a stretch. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Span } from '../../domain/time';
import { client, unwrap } from '../../platform/client';
import { CONFIGURATION, figureIn, windowIn } from '../figures';
import { SAMPLES } from './rows';

export const CHANGE_UNITS = ['hour', 'shift', 'day', 'week'] as const;
export type ChangeUnit = (typeof CHANGE_UNITS)[number];

/** One stretch, and how often each tag changed in it; null: that is not known. */
export interface ChangesLine {
  startUs: number;
  endUs: number;
  counts: ReadonlyMap<string, { count: number | null; quality: string }>;
}

/** `key`: tells the window apart. */
export const changesQuery = (
  tags: readonly string[],
  span: Span,
  unit: ChangeUnit,
  key: string,
  everyMs: number | false,
) =>
  queryOptions({
    queryKey: [SAMPLES, 'changes', tags, unit, key],
    queryFn: async ({ signal }): Promise<ChangesLine[]> => {
      const body = {
        ...{ tags: [...tags], figures: [figureIn('NumberOfTransitions')], configuration: CONFIGURATION },
        windows: [{ ...windowIn(span), split: { interval_us: 0, unit } }],
        ...{ archive: '', archives: {}, exact: false },
      };
      const found = unwrap(await client.POST('/api/figures', { body, signal }));
      const lines = new Map<string, { startUs: number; endUs: number; counts: Map<string, Count> }>();
      for (const { tag, figures } of found.results) {
        for (const { start_us, end_us, value, quality } of figures[0]?.values ?? []) {
          const line = lines.get(start_us) ?? {
            ...{ startUs: Number(start_us), endUs: Number(end_us) },
            counts: new Map<string, Count>(),
          };
          line.counts.set(tag, { count: typeof value === 'number' ? value : null, quality });
          lines.set(start_us, line);
        }
      }
      return [...lines.values()].sort((one, two) => two.startUs - one.startUs);
    },
    enabled: tags.length > 0,
    refetchInterval: everyMs,
    placeholderData: keepPreviousData,
  });

interface Count {
  count: number | null;
  quality: string;
}
