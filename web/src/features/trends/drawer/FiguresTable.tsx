/** Figures of all pens between the cursors, or over the window: chosen columns, copied, explained. */
import { Box, Button, ButtonBase, Checkbox, FormControlLabel, Popover, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { saveCsv } from '../../../platform/download';
import { clockText, lengthText, SECOND, type Span } from '../../../domain/time';
import { CopyButton, DataTable, Told, type Column } from '../../../ui';
import { LARGE } from '../model/state';
import { tableText, type FigureRow } from '../model/figuresText';
import type { FigurePen } from './PenCards';
import { archivesByTag } from '../model/archivesByTag';
import { penName } from '../model/pageTexts';
import { ValuesTable } from './ValuesTable';
import { COLUMNS, figureText, type Figure, type FigureColumn } from '../../../entities/figureTexts';
import { Explained } from '../../../entities/Explained';
import { figuresQuery } from '../../../entities/figures';

interface FiguresTableProps {
  cards: readonly FigurePen[];
  range: Span;
  /** The same pens so much earlier are drawn beside, µs; 0: they are not. */
  earlierUs: number;
  /** Between both cursors, not over the whole window. */
  bounded: boolean;
  zone: string;
  /** For reading at a distance. */
  isLarge: boolean;
  onClose: () => void;
}

const FIRST = ['Minimum', 'Maximum', 'TimeAverage2', 'StandardDeviationPopulation', 'Delta', 'PercentGood'];

export function FiguresTable(props: FiguresTableProps): ReactElement {
  const { cards, range, earlierUs, bounded, zone, onClose } = props;
  const [chosen, setChosen] = useState<readonly string[]>(FIRST);
  const [inTime, setInTime] = useState(false);
  const columns = COLUMNS.filter((one) => chosen.includes(one.stat));
  const uids = cards.map((card) => card.trace.tag.uid);
  const earlier = { startUs: range.startUs - earlierUs, endUs: range.endUs - earlierUs };
  const archives = archivesByTag(cards);
  const { data, error, isPlaceholderData } = useQuery(figuresQuery(uids, chosen, range, 0, archives));
  const before = useQuery({
    ...figuresQuery(uids, chosen, earlier, 0, archives),
    ...(earlierUs === 0 ? { enabled: false } : {}),
  });
  const rows = cards.flatMap((card): FigureRow[] => {
    const of = (found: typeof data): readonly Figure[] =>
      found?.results.find((one) => one.tag === card.trace.tag.uid)?.figures ?? [];
    const now = { card, note: '', range, figures: of(data) };
    const note = fill(wording.lengthBefore, { length: lengthText(earlierUs) });
    return earlierUs === 0 ? [now] : [now, { card, note, range: earlier, figures: of(before.data) }];
  });
  const toggle = (stat: string): void =>
    setChosen(chosen.includes(stat) ? chosen.filter((one) => one !== stat) : [...chosen, stat]);
  const texts = (): string => tableText(rows, columns);
  return (
    <Box
      component="section"
      aria-label={common.figures}
      sx={{
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
        // As high on the screen as without: the curves stay.
        maxHeight: props.isLarge ? 260 / LARGE : 260,
        overflow: 'auto',
        zoom: props.isLarge ? LARGE : 1,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 2, pt: 0.5, flexWrap: 'wrap' }}>
        <Typography component="h2" variant="h3">
          {common.figures}
        </Typography>
        <Typography
          variant="caption"
          sx={{ color: 'text.secondary', mr: 'auto' }}
          data-testid="figures-range"
        >
          {fill(wording.partClockToClock2LengthValues, {
            part: bounded ? wording.betweenAAndB : wording.overTheWindowKeysAAnd,
            clock: clockText(range.startUs, zone, SECOND),
            clock2: clockText(range.endUs, zone, SECOND),
            length: lengthText(range.endUs - range.startUs),
          })}
        </Typography>
        <Button size="small" aria-pressed={inTime} onClick={() => setInTime(!inTime)}>
          {wording.valuesInTime}
        </Button>
        {!inTime && <ColumnChoice chosen={chosen} onToggle={toggle} />}
        <CopyButton word={common.copy} text={texts} />
        <Button size="small" onClick={() => saveCsv(texts().replaceAll('\t', ','), 'figures.csv')}>
          CSV
        </Button>
        <Button size="small" onClick={onClose}>
          {common.close}
        </Button>
      </Box>
      {(error ?? before.error) !== null && (
        <Box sx={{ px: 2 }}>
          <Told kind="error">{errorText(error ?? before.error)}</Told>
        </Box>
      )}
      {inTime ? (
        <ValuesTable cards={cards} range={range} zone={zone} />
      ) : (
        <FigureRows rows={rows} columns={columns} stale={isPlaceholderData} />
      )}
    </Box>
  );
}

interface FigureRowsProps {
  rows: readonly FigureRow[];
  columns: readonly FigureColumn[];
  stale: boolean;
}

function FigureRows({ rows, columns, stale }: FigureRowsProps): ReactElement {
  const figureOf = ({ figures }: FigureRow, stat: string): Figure | undefined =>
    figures.find((one) => one.stat === stat);
  const shown: Column<FigureRow>[] = [
    {
      name: wording.pen,
      isHead: true,
      of: ({ card, note }) => (note === '' ? penName(card.trace) : note),
      value: ({ card, note }) => `${card.trace.name} ${note}`,
    },
    ...columns.map((column): Column<FigureRow> => ({
      id: column.stat,
      name: column.label,
      right: true,
      value: (row) => plainOf(figureOf(row, column.stat)?.values?.[0]?.value),
      of: (row) => (
        <Cell
          card={row.card}
          note={row.note}
          column={column}
          range={row.range}
          text={figureText(figureOf(row, column.stat), row.card.trace.tag.decimals)}
        />
      ),
    })),
  ];
  return (
    <Box sx={{ opacity: stale ? 0.6 : 1 }}>
      <DataTable
        label={wording.figuresByPen}
        columns={shown}
        rows={rows}
        keyOf={({ card, note }) => `${card.trace.tag.uid} ${note}`}
        empty={wording.thereIsNoPen}
        isInPanel
      />
    </Box>
  );
}

function plainOf(value: unknown): string | number | boolean | null {
  return typeof value === 'number' || typeof value === 'boolean' || typeof value === 'string' ? value : null;
}

interface ColumnChoiceProps {
  chosen: readonly string[];
  onToggle: (stat: string) => void;
}

function ColumnChoice({ chosen, onToggle }: ColumnChoiceProps): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button size="small" aria-haspopup="true" onClick={(event) => setAnchor(event.currentTarget)}>
        {common.columns}
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <Box sx={{ p: 1.5, display: 'flex', flexDirection: 'column' }}>
          {COLUMNS.map((column) => (
            <FormControlLabel
              key={column.stat}
              control={
                <Checkbox
                  size="small"
                  sx={{ py: 0.25 }}
                  checked={chosen.includes(column.stat)}
                  onChange={() => onToggle(column.stat)}
                />
              }
              label={column.label}
            />
          ))}
        </Box>
      </Popover>
    </>
  );
}

interface CellProps {
  card: FigurePen;
  note: string;
  column: FigureColumn;
  range: Span;
  text: { value: string; note: string };
}

/** A figure; a click says how it was made. */
function Cell({ card, note, column, range, text }: CellProps): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (text.value === '') return <span title={text.note}>–</span>;
  return (
    <>
      <ButtonBase
        aria-label={fill(wording.valueExplainLabelOfPart, {
          value: text.value,
          label: column.label,
          part: `${card.trace.name} ${note}`.trim(),
        })}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ typography: 'body2', fontFamily: 'inherit', px: 0.5, borderRadius: 0.5 }}
        title={text.note}
      >
        {text.value}
      </ButtonBase>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        slotProps={{ paper: { role: 'dialog', 'aria-label': common.howItWasMade } }}
      >
        <Box sx={{ p: 2, width: 380, maxWidth: '90vw' }}>
          <Explained uid={card.trace.tag.uid} archive={card.archive} stat={column.stat} range={range} />
        </Box>
      </Popover>
    </>
  );
}
