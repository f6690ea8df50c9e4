/** The curves as a table: what each pen was at moments of the window, and how low and high it went until the
 * next one. It says to a screen reader what the picture says to the eye. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { dayText, clockText, SECOND, type Span } from '../../../domain/time';
import { valueText, type Scalar } from '../../../domain/format';
import { DataTable, Told, type Column } from '../../../ui';
import { penName } from '../model/pageTexts';
import type { FigurePen } from './PenCards';
import { archivesByTag } from '../model/archivesByTag';
import type { Figure } from '../../../entities/figureTexts';
import { figuresQuery } from '../../../entities/figures';

/** The first is at the start of the range. */
interface Moment {
  place: number;
}

const ROWS = 12;
const MOMENTS: readonly Moment[] = Array.from({ length: ROWS }, (_, place) => ({ place }));
const STATS = ['Interpolative', 'Minimum', 'Maximum'] as const;

interface ValuesTableProps {
  cards: readonly FigurePen[];
  range: Span;
  zone: string;
}

export function ValuesTable({ cards, range, zone }: ValuesTableProps): ReactElement {
  const uids = cards.map((card) => card.trace.tag.uid);
  const stepUs = Math.max(Math.ceil((range.endUs - range.startUs) / ROWS), 1);
  const { data, error, isPlaceholderData } = useQuery(
    figuresQuery(uids, STATS, range, stepUs, archivesByTag(cards)),
  );
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  const startUs = Math.round(range.startUs);
  const figures = (uid: string): readonly Figure[] =>
    data?.results.find((one) => one.tag === uid)?.figures ?? [];
  const columns: Column<Moment>[] = [
    {
      name: common.from,
      isHead: true,
      of: ({ place }) => {
        const atUs = startUs + place * stepUs;
        const clock = clockText(atUs, zone, stepUs < 10 * SECOND ? 1 : SECOND);
        return place === 0 ? `${dayText(atUs, zone)} ${clock}` : clock;
      },
    },
    ...cards.map(({ trace }): Column<Moment> => ({
      id: trace.tag.uid,
      name: trace.tag.unit === '' ? penName(trace) : `${penName(trace)}, ${trace.tag.unit}`,
      right: true,
      of: ({ place }) => cellText(figures(trace.tag.uid), place, trace.tag.decimals),
    })),
  ];
  return (
    <Box sx={{ opacity: isPlaceholderData ? 0.6 : 1, width: 'fit-content', minWidth: '60%' }}>
      <DataTable
        label={wording.valuesInTime}
        columns={columns}
        rows={MOMENTS}
        keyOf={({ place }) => String(place)}
        empty={wording.thereIsNoPen}
        isInPanel
      />
    </Box>
  );
}

/** 95.1 (94.0 to 96.2): what it was then, and the lowest and highest until the next row. */
function cellText(figures: readonly Figure[], row: number, decimals: number): string {
  const [at, low, high] = STATS.map((stat) => figures.find((one) => one.stat === stat)?.values?.[row]);
  if (at?.value == null) return at === undefined ? '…' : common.noValue;
  const text = (value: unknown): string => valueText(scalar(value), decimals);
  const sure = at.quality === 'Good' ? '' : ' ?';
  if (low?.value == null || high?.value == null || typeof at.value === 'boolean')
    return `${text(at.value)}${sure}`;
  return fill(wording.valueWithLowAndHigh, {
    text: text(at.value),
    sure,
    text2: text(low.value),
    text3: text(high.value),
  });
}

function scalar(value: unknown): Scalar {
  if (typeof value === 'boolean') return value;
  const number = Number(value);
  return Number.isNaN(number) ? String(value) : number;
}
