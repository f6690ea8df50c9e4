/** The table for thousands of rows: as quick as for ten, because only those exist that are looked at. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactElement } from 'react';
import { TableFrame } from './TableFrame';
import type { TableProps } from './tableProps';
import { useTableRows } from './useTableRows';

const ROW_PX = 33;
/** Fewer rows than this are all drawn. */
const FEW = 100;

interface LongTableProps<T> extends TableProps<T> {
  /** It scrolls by itself, in a place so high (CSS). */
  height: string;
}

export function LongTable<T extends object>({ height, ...props }: LongTableProps<T>): ReactElement {
  const table = useTableRows(props);
  const count = table.sorted.length;
  const scroller = useRef<HTMLDivElement>(null);
  const isLong = count > FEW;
  // The virtualiser hands out fresh functions at each render by design.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: isLong ? count : 0,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = isLong ? [items[0]?.index ?? 0, items.at(-1)?.index ?? 0] : [0, count - 1];
  return (
    <TableFrame
      {...props}
      table={table}
      scroller={scroller}
      view={{
        first,
        last,
        before: isLong ? first * ROW_PX : 0,
        after: isLong ? (count - 1 - last) * ROW_PX : 0,
        height,
        onShow: (place) => isLong && virtual.scrollToIndex(place),
      }}
    />
  );
}
