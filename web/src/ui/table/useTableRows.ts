/** The rows of a table in the order that was chosen, and its columns under the names and in the order that were. */
import { createSortedRowModel, rowSortingFeature, tableFeatures, useTable } from '@tanstack/react-table';
import { useMemo, useState } from 'react';
import { compared, idOf, type Column, type Order, type Plain } from './columns';
import { keepLayout, layoutFor, readLayout, type Layout } from './layout';
import type { TableProps } from './tableProps';

const features = tableFeatures({
  rowSortingFeature,
  sortedRowModel: createSortedRowModel(),
});

export interface TableRows<T> extends Ordered<T> {
  layout: Layout;
  /** The columns' own names, by id. */
  names: ReadonlyMap<string, string>;
  /** The columns whose decimals can be chosen, by id. */
  numeric: ReadonlySet<string>;
  setLayout: (layout: Layout) => void;
  /** All rows are here: they can be ordered. */
  isWhole: boolean;
}

export function useTableRows<T extends object>(props: TableProps<T>): TableRows<T> {
  const { rows, keptAs } = props;
  const isWhole = props.isPartial !== true && (props.total ?? rows.length) === rows.length;
  const { columns, layout, names, numeric, setLayout } = useColumns(props.columns, keptAs);
  const own = useOrder(columns, layout, rows, isWhole && props.order === undefined);
  const kept = props.order === undefined ? {} : { order: props.order, onOrder: props.onOrder ?? nothing };
  return { ...own, ...kept, layout, names, numeric, setLayout, isWhole };
}

/** The columns under the names and in the order that were chosen. */
function useColumns<T>(
  own: readonly Column<T>[],
  keptAs: string | undefined,
): {
  columns: readonly Column<T>[];
  layout: Layout;
  names: ReadonlyMap<string, string>;
  numeric: ReadonlySet<string>;
  setLayout: (layout: Layout) => void;
} {
  const [kept, setKept] = useState<Layout>(() => (keptAs === undefined ? [] : readLayout(keptAs)));
  const layout = useMemo(() => layoutFor(own.map(idOf), kept), [own, kept]);
  const names = useMemo(() => new Map(own.map((column) => [idOf(column), column.name])), [own]);
  const numeric = useMemo(() => new Set(own.filter((column) => column.isNumber === true).map(idOf)), [own]);
  const columns = useMemo(() => {
    const given = new Map(layout.map((choice) => [choice.id, choice]));
    return own.map((column) => {
      const { name = '', digits } = given.get(idOf(column)) ?? {};
      const called = name === '' ? column : { ...column, id: idOf(column), name };
      return digits === undefined ? called : { ...called, of: (row: T) => column.of(row, digits) };
    });
  }, [own, layout]);
  const setLayout = (next: Layout): void => {
    setKept(next);
    if (keptAs !== undefined) keepLayout(keptAs, next);
  };
  return { columns, layout, names, numeric, setLayout };
}

interface Ordered<T> {
  order: Order | null;
  /** The head of a column was pressed. */
  onOrder: (id: string) => void;
  sorted: readonly T[];
  shown: readonly Column<T>[];
}

const NO_ORDER: Order[] = [];
const nothing = (): void => undefined;

/** Up, down, and as it came. */
function nextOrder(order: Order | null, id: string): Order | null {
  if (order?.id !== id) return { id, desc: false };
  return order.desc ? null : { id, desc: true };
}

function useOrder<T extends object>(
  columns: readonly Column<T>[],
  layout: Layout,
  rows: readonly T[],
  canOrder: boolean,
): Ordered<T> {
  const [order, setOrder] = useState<Order | null>(null);
  const sorting = canOrder && order !== null ? [order] : NO_ORDER;
  const definitions = useMemo(
    () =>
      columns.map((column) => ({
        id: idOf(column),
        // What has no value stands last, whichever way the others are ordered.
        accessorFn: (row: T): Exclude<Plain, null> | undefined => column.value?.(row) ?? undefined,
        sortUndefined: 'last' as const,
        sortFn: (a: Valued, b: Valued, id: string) => compared(a.getValue(id), b.getValue(id)),
      })),
    [columns],
  );
  const table = useTable({
    features,
    columns: definitions,
    data: rows,
    state: { sorting },
  });
  const shown = useMemo(() => {
    const byId = new Map(columns.map((column) => [idOf(column), column]));
    return layout.flatMap(({ id, isShown }) => (isShown ? (byId.get(id) ?? []) : []));
  }, [columns, layout]);
  // As they came they need no work for each of thousands.
  const sorted = sorting === NO_ORDER ? rows : table.getRowModel().rows.map(({ original }) => original);
  return { order, onOrder: (id) => setOrder(nextOrder(order, id)), sorted, shown };
}

interface Valued {
  getValue: (id: string) => Plain;
}
