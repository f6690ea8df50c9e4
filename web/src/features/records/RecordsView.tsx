/** The table of a logger's records. */
import { FileDownloadOutlined } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Choice, DataTable, TextLine, Told, type Column } from '../../ui';
import type { Span } from '../../domain/time';
import { stretchIn } from '../../domain/windows';
import { errorText } from '../../platform/errors';
import { cell, matches, moment } from './cells';
import type { RecordColumn, RecordLine, RecordPageData } from '../../entities/records';
import { served } from '../../platform/configuration';

interface RecordsViewProps {
  loggers: readonly { uid: string; name: string; records: number }[];
  known: boolean;
  logger: { uid: string; name: string; records: number } | null;
  page: RecordPageData | null;
  records: readonly RecordLine[];
  zone: string;
  search: string;
  onSearch: (text: string) => void;
  onChoose: (uid: string) => void;
  onMore: (() => void) | null;
  /** The stretch that is shown; null: all of history. */
  span: Span | null;
  /** Why it is not known where the window lies. */
  error: Error | null;
  /** All of history is shown, not a window of it. */
  isAll: boolean;
  onAll: () => void;
}

export function RecordsView(props: RecordsViewProps): ReactElement {
  const { loggers, known, logger, page, records, zone, search, onSearch, onChoose, onMore } = props;
  const columns = page?.columns ?? [];
  const found = records.filter((record) => matches(record, columns, search, zone));
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' } }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
        <Typography component="h1" variant="h1">
          Records
        </Typography>
        {logger !== null && (
          <>
            <Box sx={{ width: 240 }}>
              <Choice
                label="of the logger"
                value={logger.uid}
                options={loggers.map((one) => ({ value: one.uid, label: `${one.name} (${one.records})` }))}
                onChange={onChoose}
              />
            </Box>
            <Box sx={{ width: 220 }}>
              <TextLine label="Find in what is loaded" value={search} onChange={onSearch} />
            </Box>
            <Box sx={{ flex: 1 }} />
            {(['csv', 'xlsx'] as const).map((form) => (
              <Button
                key={form}
                size="small"
                startIcon={<FileDownloadOutlined />}
                href={served(exportPath(logger.uid, form, props.span))}
              >
                {form.toUpperCase()}
              </Button>
            ))}
          </>
        )}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', px: 2, pb: 2 }}>
        {known && logger === null && (
          <Told>No logger takes records yet. Add one under Set-up, Loggers, that records at a trigger.</Told>
        )}
        {props.error !== null && <Told kind="error">{errorText(props.error)}</Told>}
        {logger !== null && page !== null && records.length === 0 && <Nothing {...props} logger={logger} />}
        {records.length > 0 && page !== null && logger !== null && (
          <Lines
            logger={logger.uid}
            records={found}
            columns={columns}
            figures={page.figures}
            zone={zone}
            isAll={props.isAll}
            isWhole={onMore === null}
          />
        )}
        {onMore !== null && (
          <Button size="small" onClick={onMore}>
            Older ones
          </Button>
        )}
      </Box>
    </Box>
  );
}

function exportPath(uid: string, form: string, span: Span | null): string {
  const ends = Object.entries(stretchIn(span)).map(([name, us]): [string, string] => [name, String(us)]);
  return `/api/records/${uid}/export?${new URLSearchParams([['form', form], ...ends]).toString()}`;
}

/** Why there is no record to be seen, and the way to those there are. */
function Nothing({
  logger,
  isAll,
  onAll,
}: Pick<RecordsViewProps, 'isAll' | 'onAll'> & { logger: { name: string; records: number } }): ReactElement {
  if (isAll || logger.records === 0)
    return <Told>{logger.name} has taken no record yet: it waits for its trigger.</Told>;
  return (
    <Told>
      {logger.name} has taken no record in this window, but {logger.records} in all.{' '}
      <Button size="small" onClick={onAll}>
        Show all
      </Button>
    </Told>
  );
}

interface LinesProps {
  logger: string;
  records: readonly RecordLine[];
  columns: readonly RecordColumn[];
  figures: RecordPageData['figures'];
  zone: string;
  isAll: boolean;
  /** All records of the window are there. */
  isWhole: boolean;
}

type FigureRow = RecordPageData['figures'][number];
const FIGURES: readonly [string, (figures: FigureRow) => number | null][] = [
  ['Mean', (figures) => figures.mean],
  ['Min', (figures) => figures.low],
  ['Max', (figures) => figures.high],
];

function Lines({ logger, records, columns, figures, zone, isAll, isWhole }: LinesProps): ReactElement {
  const shown: Column<RecordLine>[] = [
    { name: 'No.', of: (record) => record.number, value: (record) => record.number },
    {
      name: 'Time',
      of: (record) => <Unbroken text={moment(record, zone)} />,
      value: (record) => moment(record, zone),
    },
    { name: 'Trigger', of: (record) => <Unbroken text={record.reason} />, value: (record) => record.reason },
    ...columns.map((column, i): Column<RecordLine> => ({
      id: column.tag,
      name: `${column.name}${column.unit === '' ? '' : ` (${column.unit})`}${column.present ? '' : ', earlier'}`,
      of: (record) => cell(record, column, i),
      value: (record) => record.values[i] ?? null,
      right: true,
    })),
  ];
  const foot = FIGURES.map(([name, of]) => ({
    name: `${name} of ${isAll ? 'all' : 'the window'}`,
    cells: new Map(
      columns.map((column, i): [string, string] => {
        const figure = figures[i];
        const value = figure === undefined ? null : of(figure);
        return [column.tag, value === null ? '' : value.toFixed(column.decimals)];
      }),
    ),
  }));
  return (
    <DataTable
      // Each logger has columns of its own.
      key={logger}
      label="Records"
      columns={shown}
      rows={records}
      keyOf={(record) => String(record.number)}
      empty="No record holds this text."
      keptAs={`records ${logger}`}
      isPartial={!isWhole}
      hasOwnFiles
      foot={foot}
    />
  );
}

function Unbroken({ text }: { text: string }): ReactElement {
  return (
    <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
      {text}
    </Box>
  );
}
