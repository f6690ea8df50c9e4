/** The table: rows can be ordered, chosen and opened, columns chosen, moved and named; thousands of rows are as quick as
 * ten, because only those exist that are looked at. */
import {
  Box,
  Checkbox,
  Table,
  TableBody,
  TableCell,
  TableFooter,
  TableHead,
  TableRow,
  TableSortLabel,
} from '@mui/material';
import {
  columnOrderingFeature,
  columnVisibilityFeature,
  createSortedRowModel,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type SortingState,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type DragEvent, type ReactElement, type ReactNode } from 'react';
import { compared, idOf, tableText, type Choosing, type Column, type Plain } from './columns';
import { keepLayout, layoutFor, readLayout, type Layout } from './layout';
import { DataRow } from './DataRow';
import { TableTools } from './TableTools';
import { useRowKeys } from './useRowKeys';

export type { Choosing, Column } from './columns';

export interface DataTableProps<T> {
  label: string;
  columns: readonly Column<T>[];
  rows: readonly T[];
  keyOf: (row: T) => string;
  /** What is said where there is no row. */
  empty: string;
  selected?: string | null;
  onSelect?: (row: T) => void;
  choosing?: Choosing<T>;
  /** Under this name the browser keeps its columns; with it the table has its tools. */
  keptAs?: string;
  /** What stands beside its tools. */
  tools?: ReactNode;
  /** It scrolls by itself, in a place so high (CSS): for many rows. */
  height?: string;
  /** Not all rows are loaded: they cannot be ordered, nor copied as a whole. */
  isPartial?: boolean;
  /** How many there are, where that is known, and what loads more of them. */
  total?: number;
  onEnd?: () => void;
  /** The page offers files of all of it: the table offers none beside them. */
  hasOwnFiles?: boolean;
  onDrag?: (event: DragEvent, row: T) => void;
  onDragEnd?: (event: DragEvent) => void;
  /** Lines below the rows: a name, and a text for each column, by its id. */
  foot?: readonly { name: string; cells: ReadonlyMap<string, string> }[];
}

const ROW_PX = 33;
const CHOOSING_PX = 48;
/** Fewer rows than this are all drawn. */
const FEW = 100;
const AHEAD = 40;

const features = tableFeatures({
  rowSortingFeature,
  columnVisibilityFeature,
  columnOrderingFeature,
  sortedRowModel: createSortedRowModel(),
});

export function DataTable<T extends object>(props: DataTableProps<T>): ReactElement {
  const { label, rows, keyOf, empty, keptAs, height, choosing, onSelect, onEnd } = props;
  const total = props.total ?? rows.length;
  const isWhole = props.isPartial !== true && total === rows.length;
  const { columns, layout, names, setLayout } = useColumns(props.columns, keptAs);
  const { sorting, setSorting, sorted, shown } = useOrder(columns, layout, rows, isWhole);
  const scroller = useRef<HTMLDivElement>(null);
  const isLong = height !== undefined && sorted.length > FEW;
  // The virtualiser hands out fresh functions at each render by design.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: isLong ? sorted.length : 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = isLong ? [items[0]?.index ?? 0, items.at(-1)?.index ?? 0] : [0, sorted.length - 1];
  useEffect(() => {
    if (rows.length < total && (isLong ? last : rows.length - 1) >= rows.length - AHEAD) onEnd?.();
  }, [rows.length, total, isLong, last, onEnd]);
  const keys = useRowKeys({
    count: sorted.length,
    keyAt: (i) => (sorted[i] === undefined ? null : keyOf(sorted[i])),
    onShow: (i) => isLong && virtual.scrollToIndex(i),
    onToggle: choosing?.onToggle ?? null,
  });
  const span = shown.length + (choosing === undefined ? 0 : 1);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      {(keptAs !== undefined || props.tools !== undefined) && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'flex-end', gap: 1 }}>
          {props.tools}
          {keptAs !== undefined && (
            <TableTools
              layout={layout}
              names={names}
              onLayout={setLayout}
              text={isWhole ? (separator) => tableText(shown, sorted, separator) : null}
              hasFile={props.hasOwnFiles !== true}
              file={label.toLowerCase()}
            />
          )}
        </Box>
      )}
      <Box ref={scroller} sx={height === undefined ? {} : { height, minHeight: 240, overflow: 'auto' }}>
        <Table
          size="small"
          stickyHeader
          aria-label={label}
          // -1: not known (ARIA 1.2).
          aria-rowcount={props.isPartial === true && props.total === undefined ? -1 : total + 1}
          onKeyDown={keys.onKeyDown}
          sx={height === undefined ? CELLS : ONE_LINE}
        >
          <Head
            shown={shown}
            sorting={sorting}
            setSorting={setSorting}
            choosing={choosing}
            total={total}
            canOrder={isWhole}
          />
          <TableBody>
            {isLong && <Space span={span} height={first * ROW_PX} />}
            {sorted.slice(first, last + 1).map((row, i) => (
              <DataRow
                key={keyOf(row)}
                row={row}
                choosing={choosing}
                place={first + i}
                rowKey={keyOf(row)}
                columns={shown}
                isSelected={keyOf(row) === props.selected}
                isStop={keys.stop === first + i}
                onSelect={onSelect}
                onDrag={props.onDrag}
                onDragEnd={props.onDragEnd}
              />
            ))}
            {isLong && <Space span={span} height={(sorted.length - 1 - last) * ROW_PX} />}
            {rows.length === 0 && (
              <TableRow>
                <TableCell colSpan={span} sx={{ color: 'text.secondary', py: 3 }}>
                  {empty}
                </TableCell>
              </TableRow>
            )}
          </TableBody>
          {props.foot !== undefined && <Foot foot={props.foot} shown={shown} />}
        </Table>
      </Box>
    </Box>
  );
}

const CELLS = { '& td, & th': { borderColor: 'divider', py: 0.75 } } as const;
/** Rows that are drawn only where one looks are all of one height. */
const ONE_LINE = { ...CELLS, tableLayout: 'fixed', '& td': { whiteSpace: 'nowrap' } } as const;

/** The columns under the names and in the order that were chosen. */
function useColumns<T>(
  own: readonly Column<T>[],
  keptAs: string | undefined,
): {
  columns: readonly Column<T>[];
  layout: Layout;
  names: ReadonlyMap<string, string>;
  setLayout: (layout: Layout) => void;
} {
  const [kept, setKept] = useState<Layout>(() => (keptAs === undefined ? [] : readLayout(keptAs)));
  const layout = layoutFor(own.map(idOf), kept);
  const names = new Map(own.map((column) => [idOf(column), column.name]));
  const given = new Map(layout.map((choice) => [choice.id, choice.name]));
  const columns = own.map((column) => {
    const name = given.get(idOf(column)) ?? '';
    return name === '' ? column : { ...column, id: idOf(column), name };
  });
  const setLayout = (next: Layout): void => {
    setKept(next);
    if (keptAs !== undefined) keepLayout(keptAs, next);
  };
  return { columns, layout, names, setLayout };
}

interface Order<T> {
  sorting: SortingState;
  setSorting: (sorting: SortingState) => void;
  sorted: readonly T[];
  shown: readonly Column<T>[];
}

function useOrder<T extends object>(
  columns: readonly Column<T>[],
  layout: Layout,
  rows: readonly T[],
  canOrder: boolean,
): Order<T> {
  const [sorting, setSorting] = useState<SortingState>([]);
  const table = useTable({
    features,
    columns: columns.map((column) => ({
      id: idOf(column),
      // What has no value stands last, whichever way the others are ordered.
      accessorFn: (row: T): Exclude<Plain, null> | undefined => column.value?.(row) ?? undefined,
      sortUndefined: 'last' as const,
      sortFn: (a: Valued, b: Valued, id: string) => compared(a.getValue(id), b.getValue(id)),
    })),
    data: rows,
    state: {
      sorting: canOrder ? sorting : [],
      columnVisibility: Object.fromEntries(layout.map(({ id, isShown }) => [id, isShown])),
      columnOrder: layout.map(({ id }) => id),
    },
  });
  const byId = new Map(columns.map((column) => [idOf(column), column]));
  const shown = table.getVisibleLeafColumns().flatMap(({ id }) => byId.get(id) ?? []);
  return { sorting, setSorting, sorted: table.getRowModel().rows.map(({ original }) => original), shown };
}

interface Valued {
  getValue: (id: string) => Plain;
}

interface HeadProps<T> {
  shown: readonly Column<T>[];
  sorting: SortingState;
  setSorting: (sorting: SortingState) => void;
  canOrder: boolean;
  choosing: Choosing<T> | undefined;
  total: number;
}

function Head<T>({ shown, sorting, setSorting, canOrder, choosing, total }: HeadProps<T>): ReactElement {
  const [order] = sorting;
  const click = (id: string): void => {
    // Up, down, and as it came.
    if (order?.id !== id) setSorting([{ id, desc: false }]);
    else setSorting(order.desc ? [] : [{ id, desc: true }]);
  };
  return (
    <TableHead>
      <TableRow>
        {choosing !== undefined && (
          <TableCell sx={{ ...HEAD, width: CHOOSING_PX, pl: 1.5, pr: 1 }}>
            <Checkbox
              size="small"
              checked={choosing.chosen.size > 0 && choosing.chosen.size >= total}
              indeterminate={choosing.chosen.size > 0 && choosing.chosen.size < total}
              onChange={choosing.onToggleAll}
              slotProps={{ input: { 'aria-label': 'Choose all that are found' } }}
              sx={{ p: 0.5 }}
            />
          </TableCell>
        )}
        {shown.map((column) => {
          const id = idOf(column);
          const direction = order?.id === id ? (order.desc ? 'desc' : 'asc') : false;
          return (
            <TableCell
              key={id}
              align={column.right === true ? 'right' : 'left'}
              sortDirection={direction}
              sx={{ ...HEAD, width: column.width }}
            >
              {canOrder && column.value !== undefined ? (
                <TableSortLabel
                  active={direction !== false}
                  direction={direction === false ? 'asc' : direction}
                  onClick={() => click(id)}
                >
                  {column.name}
                </TableSortLabel>
              ) : (
                column.name
              )}
            </TableCell>
          );
        })}
      </TableRow>
    </TableHead>
  );
}

const HEAD = {
  typography: 'caption',
  color: 'text.secondary',
  bgcolor: 'background.default',
  lineHeight: 1.3,
} as const;

/** The place of the rows that are not drawn. */
function Space({ span, height }: { span: number; height: number }): ReactElement | null {
  if (height <= 0) return null;
  return (
    <tr aria-hidden style={{ height }}>
      <td colSpan={span} style={{ padding: 0, border: 0 }} />
    </tr>
  );
}

function Foot<T>({
  foot,
  shown,
}: {
  foot: NonNullable<DataTableProps<T>['foot']>;
  shown: readonly Column<T>[];
}): ReactElement {
  return (
    <TableFooter>
      {foot.map(({ name, cells }) => (
        <TableRow key={name}>
          {shown.map((column, i) => (
            <TableCell
              key={idOf(column)}
              align={i > 0 && column.right === true ? 'right' : 'left'}
              sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}
            >
              {i === 0 ? name : (cells.get(idOf(column)) ?? '')}
            </TableCell>
          ))}
        </TableRow>
      ))}
    </TableFooter>
  );
}
