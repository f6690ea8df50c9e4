/** A short table whose rows can be opened; the first cell carries the row's button. */
import { ButtonBase, Table, TableBody, TableCell, TableHead, TableRow } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

export interface Column<T> {
  name: string;
  of: (row: T) => ReactNode;
  right?: boolean;
  width?: number | string;
}

interface DataTableProps<T> {
  label: string;
  columns: readonly Column<T>[];
  rows: readonly T[];
  keyOf: (row: T) => string;
  selected?: string | null;
  onSelect?: (row: T) => void;
  empty: string;
}

export function DataTable<T>(props: DataTableProps<T>): ReactElement {
  const { label, columns, rows, keyOf, selected = null, onSelect, empty } = props;
  return (
    <Table
      size="small"
      stickyHeader
      aria-label={label}
      sx={{ '& td, & th': { borderColor: 'divider', py: 0.75 } }}
    >
      <TableHead>
        <TableRow>
          {columns.map((column) => (
            <TableCell
              key={column.name}
              align={column.right === true ? 'right' : 'left'}
              sx={{
                fontSize: 12,
                color: 'text.secondary',
                bgcolor: 'background.default',
                width: column.width,
              }}
            >
              {column.name}
            </TableCell>
          ))}
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map((row) => (
          <TableRow
            key={keyOf(row)}
            hover={onSelect !== undefined}
            selected={keyOf(row) === selected}
            onClick={() => onSelect?.(row)}
            sx={{ cursor: onSelect === undefined ? 'default' : 'pointer' }}
          >
            {columns.map((column, i) => (
              <TableCell
                key={column.name}
                align={column.right === true ? 'right' : 'left'}
                sx={{ fontSize: 13 }}
              >
                {i === 0 && onSelect !== undefined ? (
                  <ButtonBase
                    onClick={(event) => {
                      event.stopPropagation();
                      onSelect(row);
                    }}
                    sx={{ font: 'inherit', textAlign: 'left' }}
                  >
                    {column.of(row)}
                  </ButtonBase>
                ) : (
                  column.of(row)
                )}
              </TableCell>
            ))}
          </TableRow>
        ))}
        {rows.length === 0 && (
          <TableRow>
            <TableCell colSpan={columns.length} sx={{ color: 'text.secondary', py: 3 }}>
              {empty}
            </TableCell>
          </TableRow>
        )}
      </TableBody>
    </Table>
  );
}
