/** The rows of a table in the order that was chosen, and its columns under the names and in the order that were. */
import {
  columnOrderingFeature,
  columnVisibilityFeature,
  createSortedRowModel,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type SortingState,
} from '@tanstack/react-table';
import { useState } from 'react';
import { compared, idOf, type Column, type Plain } from './columns';
import { keepLayout, layoutFor, readLayout, type Layout } from './layout';
import type { TableProps } from './tableProps';

const features = tableFeatures({
  rowSortingFeature,
  columnVisibilityFeature,
  columnOrderingFeature,
  sortedRowModel: createSortedRowModel(),
});

export interface TableRows<T> extends Order<T> {
  layout: Layout;
  /** The columns' own names, by id. */
  names: ReadonlyMap<string, string>;
  setLayout: (layout: Layout) => void;
  /** All rows are here: they can be ordered. */
  isWhole: boolean;
}

export function useTableRows<T extends object>(props: TableProps<T>): TableRows<T> {
  const { rows, keptAs } = props;
  const isWhole = props.isPartial !== true && (props.total ?? rows.length) === rows.length;
  const { columns, layout, names, setLayout } = useColumns(props.columns, keptAs);
  return { ...useOrder(columns, layout, rows, isWhole), layout, names, setLayout, isWhole };
}

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
