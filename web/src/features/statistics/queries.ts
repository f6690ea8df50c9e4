import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../../api/client';
import { CONFIGURATION, figureIn } from '../../api/figures';
import type { components } from '../../api/schema';
import type { Kind } from './lanes';
import { isLive, type Line, type SheetState } from './state';

type WindowIn = components['schemas']['WindowIn'];

export const kindsQuery = queryOptions({
  queryKey: ['statistics', 'kinds'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/statistics/kinds', { signal })),
  staleTime: 30_000,
});

const LIVE_MS = 5_000;

/** The sheet: pieces of equipment in rows, lines in columns. */
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
      return unwrap(
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
            beside: state.beside ? 'before' : null,
            configuration: CONFIGURATION,
            exact: false,
          },
          signal,
        }),
      );
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
