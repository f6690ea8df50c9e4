/** What every table has: its tools, its head, the rows that are drawn, its foot. */
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
import { useEffect, useLayoutEffect, useRef, type ReactElement, type RefObject } from 'react';
import * as wording from 'texts/ui.json';
import { idOf, tableText, type Choosing, type Column, type Order } from './columns';
import { DataRow, type RowActions } from './DataRow';
import type { TableProps } from './tableProps';
import { ROW_STYLE } from './rowStyle';
import { TableTools } from './TableTools';
import { usePrinting } from './usePrinting';
import { useRowKeys } from './useRowKeys';
import type { TableRows } from './useTableRows';

const CHOOSING_PX = 48;
/** So many rows before the last that is loaded more of them are asked for. */
const AHEAD = 40;

/** Which of the rows are drawn. */
export interface View {
  first: number;
  last: number;
  /** The place in CSS pixels of the rows above and below that are not drawn. */
  before: number;
  after: number;
  /** It scrolls by itself, in a place so high (CSS). */
  height: string | undefined;
  /** Brings a row into view that may not be drawn. */
  onShow: (place: number) => void;
}

interface TableFrameProps<T> extends TableProps<T> {
  table: TableRows<T>;
  view: View;
  /** The place that scrolls, where it does so by itself. */
  scroller?: RefObject<HTMLDivElement | null>;
}

export function TableFrame<T extends object>(props: TableFrameProps<T>): ReactElement {
  const { label, rows, keyOf, empty, keptAs, choosing, onSelect, onEnd, view, scroller } = props;
  const { tools, isPartial = false, hasOwnFiles = false, foot, selected, onDrag, onDragEnd } = props;
  const { layout, names, numeric, setLayout, order, onOrder, sorted, shown, isWhole } = props.table;
  const ground = props.isInPanel === true ? 'background.paper' : 'background.default';
  const total = props.total ?? rows.length;
  useEffect(() => {
    if (rows.length < total && view.last >= rows.length - AHEAD) onEnd?.();
  }, [rows.length, total, view.last, onEnd]);
  const drawn = sorted
    .slice(view.first, view.last + 1)
    .map(keyOf)
    .join(' ');
  const { onDrawn } = props;
  useEffect(() => onDrawn?.(drawn), [onDrawn, drawn]);
  const keys = useRowKeys({
    count: sorted.length,
    keyAt: (i) => (sorted[i] === undefined ? null : keyOf(sorted[i])),
    onShow: view.onShow,
    onToggle: choosing?.onToggle ?? null,
  });
  const actions = useRowActions({ onSelect, onToggle: choosing?.onToggle, onDrag, onDragEnd });
  const printing = usePrinting(props, props.table);
  const span = shown.length + (choosing === undefined ? 0 : 1);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      {printing.sheet}
      {(keptAs !== undefined || tools !== undefined) && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'flex-end', gap: 1 }}>
          {tools}
          {keptAs !== undefined && (
            <TableTools
              layout={layout}
              names={names}
              numeric={numeric}
              onLayout={setLayout}
              text={isWhole ? (separator) => tableText(shown, sorted, separator) : null}
              hasFile={!hasOwnFiles}
              file={label.toLowerCase()}
              isPrinting={printing.isBusy}
              onPrint={printing.onPrint}
            />
          )}
        </Box>
      )}
      <Box
        ref={scroller}
        sx={view.height === undefined ? {} : { height: view.height, minHeight: 240, overflow: 'auto' }}
      >
        <Table
          size="small"
          stickyHeader
          aria-label={label}
          // -1: not known (ARIA 1.2).
          aria-rowcount={isPartial && !Number.isFinite(props.total) ? -1 : total + 1}
          onKeyDown={keys.onKeyDown}
          sx={{
            ...ROW_STYLE,
            ...(view.height === undefined ? CELLS : ONE_LINE),
            ...(props.isInPanel === true ? CLOSE : {}),
            ...(props.leastWidth === undefined ? {} : { minWidth: props.leastWidth }),
            '& th': { bgcolor: ground },
          }}
        >
          <Head
            shown={shown}
            order={order}
            onOrder={onOrder}
            ground={ground}
            choosing={choosing}
            total={total}
            canOrder={isWhole}
          />
          <TableBody>
            {view.before > 0 && <Space span={span} height={view.before} />}
            {sorted.slice(view.first, view.last + 1).map((row, i) => (
              <DataRow
                key={keyOf(row)}
                row={row}
                place={view.first + i}
                rowKey={keyOf(row)}
                columns={shown}
                isSelected={keyOf(row) === selected}
                isChosen={choosing?.chosen.has(keyOf(row)) ?? false}
                chosenAs={choosing?.nameOf(row) ?? null}
                isStop={keys.stop === view.first + i}
                canOpen={onSelect !== undefined}
                canBeDragged={onDrag !== undefined}
                actions={actions}
              />
            ))}
            {view.after > 0 && <Space span={span} height={view.after} />}
            {rows.length === 0 && (
              <TableRow>
                <TableCell colSpan={span} sx={{ color: 'text.secondary', py: 3 }}>
                  {empty}
                </TableCell>
              </TableRow>
            )}
          </TableBody>
          {foot !== undefined && (
            <Foot foot={foot} shown={shown} ground={view.height === undefined ? '' : ground} />
          )}
        </Table>
      </Box>
    </Box>
  );
}

/** Rows hold these through all pictures, so that they need not be drawn anew for them. */
function useRowActions<T>(now: RowActions<T>): RefObject<RowActions<T>> {
  const actions = useRef(now);
  useLayoutEffect(() => {
    actions.current = now;
  });
  return actions;
}

const CLOSE = {
  '& td, & th': { borderColor: 'divider', py: 0.25, px: 1 },
  '& td': { whiteSpace: 'nowrap' },
  '& tr > :first-of-type': { pl: 2 },
} as const;
const CELLS = { '& td, & th': { borderColor: 'divider', py: 0.75 } } as const;
/** Rows that are drawn only where one looks are all of one height. */
const ONE_LINE = {
  ...CELLS,
  tableLayout: 'fixed',
  // On a phone it is moved sideways: names that are cut off tell nothing.
  minWidth: { xs: 760, md: 0 },
  '& td': { whiteSpace: 'nowrap' },
} as const;

interface HeadProps<T> {
  shown: readonly Column<T>[];
  order: Order | null;
  onOrder: (id: string) => void;
  ground: string;
  canOrder: boolean;
  choosing: Choosing<T> | undefined;
  total: number;
}

function Head<T>(props: HeadProps<T>): ReactElement {
  const { shown, order, onOrder, ground, canOrder, choosing, total } = props;
  return (
    <TableHead>
      <TableRow>
        {choosing !== undefined && (
          <TableCell sx={{ ...HEAD, bgcolor: ground, width: CHOOSING_PX, pl: 1.5, pr: 1 }}>
            <Checkbox
              size="small"
              checked={choosing.chosen.size > 0 && choosing.chosen.size >= total}
              indeterminate={choosing.chosen.size > 0 && choosing.chosen.size < total}
              onChange={choosing.onToggleAll}
              slotProps={{ input: { 'aria-label': wording.chooseAllThatAreFound } }}
              sx={{ p: 0.5 }}
            />
          </TableCell>
        )}
        {shown.map((column) => {
          const id = idOf(column);
          const direction = order?.id === id ? (order.desc ? 'desc' : 'asc') : false;
          const isOrderable = canOrder && column.value !== undefined;
          return (
            <TableCell
              key={id}
              align={column.right === true ? 'right' : 'left'}
              sortDirection={direction}
              {...(isOrderable && direction === false ? { 'aria-sort': 'none' as const } : {})}
              sx={{ ...HEAD, ...(column.isHead === true ? STAYS : {}), bgcolor: ground, width: column.width }}
            >
              {isOrderable ? (
                <TableSortLabel
                  active={direction !== false}
                  direction={direction === false ? 'asc' : direction}
                  onClick={() => onOrder(id)}
                >
                  {column.name}
                </TableSortLabel>
              ) : (
                column.name
              )}
              {column.note !== undefined && column.note !== '' && <Box>{column.note}</Box>}
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
  lineHeight: 1.3,
} as const;
/** Above the cells that stay at the left, too. */
const STAYS = { left: 0, zIndex: 3 } as const;

/** The place of the rows that are not drawn. */
function Space({ span, height }: { span: number; height: number }): ReactElement {
  return (
    <tr aria-hidden style={{ height }}>
      <td colSpan={span} style={{ padding: 0, border: 0 }} />
    </tr>
  );
}

interface FootProps<T> {
  foot: NonNullable<TableProps<T>['foot']>;
  shown: readonly Column<T>[];
  /** Where it stays in view: the colour of its ground. */
  ground: string;
}

function Foot<T>({ foot, shown, ground }: FootProps<T>): ReactElement {
  return (
    <TableFooter sx={[ground !== '' && { position: 'sticky', bottom: 0, bgcolor: ground, zIndex: 2 }]}>
      {foot.map(({ name, cells }) => (
        <TableRow key={name}>
          {shown.map((column, i) => (
            <TableCell
              key={idOf(column)}
              align={i > 0 && column.right === true ? 'right' : 'left'}
              sx={{ color: 'text.secondary', whiteSpace: 'nowrap', py: 0.25 }}
            >
              {i === 0 ? name : (cells.get(idOf(column)) ?? '')}
            </TableCell>
          ))}
        </TableRow>
      ))}
    </TableFooter>
  );
}
