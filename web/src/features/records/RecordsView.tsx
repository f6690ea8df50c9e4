/** The table of a logger's records. */
import { FileDownloadOutlined } from '@mui/icons-material';
import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  Popover,
  Table,
  TableBody,
  TableCell,
  TableFooter,
  TableHead,
  TableRow,
  Typography,
} from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Choice, TextLine, Told } from '../../ui';
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
  /** Tags whose columns are not shown. */
  hidden: ReadonlySet<string>;
  search: string;
  onSearch: (text: string) => void;
  onChoose: (uid: string) => void;
  onToggle: (tag: string) => void;
  onMore: (() => void) | null;
}

export function RecordsView(props: RecordsViewProps): ReactElement {
  const {
    loggers,
    known,
    logger,
    page,
    records,
    zone,
    hidden,
    search,
    onSearch,
    onChoose,
    onToggle,
    onMore,
  } = props;
  const columns = page?.columns ?? [];
  const shown = columns.map((column, i) => ({ column, i })).filter(({ column }) => !hidden.has(column.tag));
  const found = records.filter((record) => matches(record, columns, search, zone));
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' } }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
        <Typography component="h1" sx={{ fontSize: 18, fontWeight: 700 }}>
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
            <Columns columns={columns} hidden={hidden} onToggle={onToggle} />
            <Box sx={{ flex: 1 }} />
            {(['csv', 'xlsx'] as const).map((form) => (
              <Button
                key={form}
                size="small"
                startIcon={<FileDownloadOutlined />}
                href={served(`/api/records/${logger.uid}/export?form=${form}`)}
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
        {logger !== null && records.length === 0 && (
          <Told>{logger.name} has taken no record yet: it waits for its trigger.</Told>
        )}
        {found.length > 0 && page !== null && (
          <Lines records={found} shown={shown} figures={page.figures} zone={zone} />
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

interface LinesProps {
  records: readonly RecordLine[];
  shown: readonly { column: RecordColumn; i: number }[];
  figures: RecordPageData['figures'];
  zone: string;
}

function Lines({ records, shown, figures, zone }: LinesProps): ReactElement {
  const rows: [string, (f: RecordPageData['figures'][number]) => number | null][] = [
    ['Mean', (f) => f.mean],
    ['Lowest', (f) => f.low],
    ['Highest', (f) => f.high],
  ];
  return (
    <Table
      size="small"
      stickyHeader
      aria-label="Records"
      sx={{
        '& td': { fontSize: 13, whiteSpace: 'nowrap', px: 1 },
        '& th': { fontSize: 12, px: 1, lineHeight: 1.3 },
      }}
    >
      <TableHead>
        <TableRow>
          {['No.', 'Time', 'Trigger'].map((name) => (
            <TableCell key={name} sx={HEAD}>
              {name}
            </TableCell>
          ))}
          {shown.map(({ column, i }) => (
            <TableCell key={i} align="right" sx={HEAD}>
              {column.name}
              {column.unit !== '' && ` (${column.unit})`}
              {!column.present && ', earlier'}
            </TableCell>
          ))}
        </TableRow>
      </TableHead>
      <TableBody>
        {records.map((record) => (
          <TableRow key={record.number} hover>
            <TableCell>{record.number}</TableCell>
            <TableCell>{moment(record, zone)}</TableCell>
            <TableCell>{record.reason}</TableCell>
            {shown.map(({ column, i }) => (
              <TableCell key={i} align="right">
                {cell(record, column, i)}
              </TableCell>
            ))}
          </TableRow>
        ))}
      </TableBody>
      <TableFooter>
        {rows.map(([name, of]) => (
          <TableRow key={name}>
            <TableCell colSpan={3} sx={FOOT}>
              {name} of all
            </TableCell>
            {shown.map(({ column, i }) => {
              const figure = figures[i];
              const value = figure === undefined ? null : of(figure);
              return (
                <TableCell key={i} align="right" sx={FOOT}>
                  {value === null ? '' : value.toFixed(column.decimals)}
                </TableCell>
              );
            })}
          </TableRow>
        ))}
      </TableFooter>
    </Table>
  );
}

const HEAD = { color: 'text.secondary', bgcolor: 'background.default', borderColor: 'divider' };
const FOOT = { color: 'text.secondary', borderColor: 'divider' };

interface ColumnsProps {
  columns: readonly RecordColumn[];
  hidden: ReadonlySet<string>;
  onToggle: (tag: string) => void;
}

function Columns({ columns, hidden, onToggle }: ColumnsProps): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button size="small" onClick={(event) => setAnchor(event.currentTarget)}>
        Columns
      </Button>
      <Popover open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <Box sx={{ p: 1.5, display: 'grid' }}>
          {columns.map((column) => (
            <FormControlLabel
              key={column.tag}
              control={
                <Checkbox
                  size="small"
                  checked={!hidden.has(column.tag)}
                  onChange={() => onToggle(column.tag)}
                />
              }
              label={column.name}
            />
          ))}
        </Box>
      </Popover>
    </>
  );
}
