/** The curves as a table: what each pen was at moments of the window, and how low and high it went until the
 * next one. It says to a screen reader what the picture says to the eye. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { dayText, clockText, SECOND, type Span } from '../../../domain/time';
import { valueText, type Scalar } from '../../../domain/format';
import { Told } from '../../../ui';
import type { FigurePen } from './PenCards';
import { archivesByTag } from '../model/archivesByTag';
import type { Figure } from '../../../entities/figureTexts';
import { figuresQuery } from '../../../entities/figures';

const ROWS = 12;
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
  const rows = Array.from({ length: ROWS }, (_, i) => Math.round(range.startUs) + i * stepUs);
  const figures = (uid: string): readonly Figure[] =>
    data?.results.find((one) => one.tag === uid)?.figures ?? [];
  return (
    <Box
      component="table"
      aria-label="Values in time"
      sx={{
        typography: 'caption',
        borderCollapse: 'collapse',
        opacity: isPlaceholderData ? 0.6 : 1,
        '& th': { typography: 'caption', fontWeight: 400, color: 'text.secondary', textAlign: 'right' },
        '& th, & td': { px: 1.5, py: 0.25, whiteSpace: 'nowrap' },
        '& td': { textAlign: 'right' },
      }}
    >
      <thead>
        <tr>
          <th scope="col">From</th>
          {cards.map(({ trace }) => (
            <th key={trace.tag.uid} scope="col">
              {trace.number > 0 ? `${trace.number} ` : ''}
              {trace.name}
              {trace.tag.unit === '' ? '' : `, ${trace.tag.unit}`}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((atUs, i) => (
          <tr key={atUs}>
            <th scope="row">
              {i === 0 ? `${dayText(atUs, zone)} ` : ''}
              {clockText(atUs, zone, stepUs < 10 * SECOND ? 1 : SECOND)}
            </th>
            {cards.map(({ trace }) => (
              <td key={trace.tag.uid}>{cellText(figures(trace.tag.uid), i, trace.tag.decimals)}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

/** 95.1 (94.0 to 96.2): what it was then, and the lowest and highest until the next row. */
function cellText(figures: readonly Figure[], row: number, decimals: number): string {
  const [at, low, high] = STATS.map((stat) => figures.find((one) => one.stat === stat)?.values?.[row]);
  if (at?.value == null) return at === undefined ? '…' : 'no value';
  const text = (value: unknown): string => valueText(scalar(value), decimals);
  const sure = at.quality === 'Good' ? '' : ' ?';
  if (low?.value == null || high?.value == null || typeof at.value === 'boolean')
    return `${text(at.value)}${sure}`;
  return `${text(at.value)}${sure} (${text(low.value)} to ${text(high.value)})`;
}

function scalar(value: unknown): Scalar {
  if (typeof value === 'boolean') return value;
  const number = Number(value);
  return Number.isNaN(number) ? String(value) : number;
}
