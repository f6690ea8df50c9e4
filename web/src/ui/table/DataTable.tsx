/** The table: rows can be ordered, chosen and opened, columns chosen, moved and named. All its rows are drawn; for thousands
 * there is the long table. */
import type { ReactElement } from 'react';
import { TableFrame } from './TableFrame';
import type { TableProps } from './tableProps';
import { useTableRows } from './useTableRows';

export type { Choosing, Column } from './columns';

export function DataTable<T extends object>(props: TableProps<T>): ReactElement {
  const table = useTableRows(props);
  return (
    <TableFrame
      {...props}
      table={table}
      view={{
        first: 0,
        last: table.sorted.length - 1,
        before: 0,
        after: 0,
        height: undefined,
        onShow: () => undefined,
      }}
    />
  );
}
