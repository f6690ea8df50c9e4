/** The records that are shown, as a table with figures of each column. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/records.json';
import { fill } from '../../domain/fill';
import { DataTable, type Column } from '../../ui';
import { cell, moment } from './cells';
import { HEADS, idOf, keptAs } from './shown';
import type { RecordColumn, RecordLine, RecordPageData, RecordsLook } from '../../entities/records';

interface RecordLinesProps {
  look: RecordsLook;
  onOrder: (order: RecordsLook['order']) => void;
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
  [common.mean, (figures) => figures.mean],
  [common.min, (figures) => figures.low],
  [common.max, (figures) => figures.high],
];

export function RecordLines(props: RecordLinesProps): ReactElement {
  const { logger, records, columns, figures, zone, isAll, isWhole, look, onOrder } = props;
  const names = new Map([
    ...Object.entries(HEADS),
    ...columns.map((column): [string, string] => [idOf(column), String(column.number)]),
  ]);
  const { order } = look;
  const ordered = order === null ? undefined : [...names].find(([, name]) => name === order.by)?.[0];
  const next = (id: string): void => {
    const by = names.get(id) ?? '';
    if (order?.by !== by) onOrder({ by, descending: false });
    else onOrder(order.descending ? null : { by, descending: true });
  };
  const shown: Column<RecordLine>[] = [
    { name: wording.no, of: (record) => record.number, value: (record) => record.number },
    {
      name: common.time,
      of: (record) => <Unbroken text={moment(record, zone)} />,
      value: (record) => moment(record, zone),
    },
    {
      name: wording.trigger,
      of: (record) => <Unbroken text={record.reason} />,
      value: (record) => record.reason,
    },
    ...columns.map((column, i): Column<RecordLine> => ({
      id: idOf(column),
      name: `${column.name}${column.unit === '' ? '' : ` (${column.unit})`}${column.present ? '' : wording.earlier}`,
      of: (record, digits) => cell(record, column, i, digits),
      isNumber: true,
      value: (record) => record.values[i] ?? null,
      right: true,
    })),
  ];
  const foot = FIGURES.map(([name, of]) => ({
    name: fill(wording.nameOfPart, {
      name,
      part: look.search !== '' ? wording.thoseFound : isAll ? common.all : wording.theWindow,
    }),
    cells: new Map(
      columns.map((column, i): [string, string] => {
        const figure = figures[i];
        const value = figure === undefined ? null : of(figure);
        return [idOf(column), value === null ? '' : value.toFixed(column.decimals)];
      }),
    ),
  }));
  return (
    <DataTable
      // Each logger has columns of its own.
      key={logger}
      label={common.records}
      columns={shown}
      rows={records}
      keyOf={(record) => String(record.number)}
      empty=""
      keptAs={keptAs(logger)}
      order={ordered === undefined ? null : { id: ordered, desc: order?.descending === true }}
      onOrder={next}
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
