import { ButtonBase, Checkbox, TableCell, TableRow } from '@mui/material';
import { alpha, type Theme } from '@mui/material/styles';
import type { DragEvent, ReactElement } from 'react';
import { idOf, type Choosing, type Column } from './columns';

interface DataRowProps<T> {
  row: T;
  rowKey: string;
  /** Its place among all rows. */
  place: number;
  columns: readonly Column<T>[];
  isSelected: boolean;
  /** The Tab key stops at it. */
  isStop: boolean;
  choosing: Choosing<T> | undefined;
  onSelect: ((row: T) => void) | undefined;
  onDrag: ((event: DragEvent, row: T) => void) | undefined;
  onDragEnd: ((event: DragEvent) => void) | undefined;
}

/** One row; where rows can be opened its first cell is the button for it. */
export function DataRow<T>(props: DataRowProps<T>): ReactElement {
  const { row, rowKey, place, columns, isSelected, isStop, choosing, onSelect, onDrag, onDragEnd } = props;
  const isChosen = choosing?.chosen.has(rowKey) ?? false;
  return (
    <TableRow
      hover={onSelect !== undefined}
      selected={isSelected || isChosen}
      aria-rowindex={place + 2}
      onClick={() => onSelect?.(row)}
      draggable={onDrag !== undefined}
      onDragStart={onDrag === undefined ? undefined : (event) => onDrag(event, row)}
      onDragEnd={onDragEnd}
      sx={{ cursor: onSelect === undefined ? 'default' : 'pointer' }}
    >
      {choosing !== undefined && (
        <TableCell padding="checkbox" onClick={(event) => event.stopPropagation()}>
          <Checkbox
            size="small"
            checked={isChosen}
            onChange={() => choosing.onToggle(rowKey)}
            slotProps={{ input: { 'aria-label': `Choose ${choosing.nameOf(row)}` } }}
            sx={{ p: 0.5 }}
          />
        </TableCell>
      )}
      {columns.map((column, i) => (
        <TableCell
          key={idOf(column)}
          align={column.right === true ? 'right' : 'left'}
          {...(column.isHead === true ? { component: 'th', scope: 'row', sx: HEAD } : { sx: CELL })}
        >
          {i === 0 && onSelect !== undefined ? (
            <ButtonBase
              data-row={place}
              tabIndex={isStop ? 0 : -1}
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
  );
}

/** Of a wide table it stays said what the row is of. */
const HEAD = {
  typography: 'body2',
  position: 'sticky',
  left: 0,
  zIndex: 1,
  minWidth: { xs: 150 },
  whiteSpace: { xs: 'normal', md: 'nowrap' },
  // What scrolls below it must not show through: its tint lies on the ground of the table.
  '.Mui-selected > &': {
    backgroundImage: ({ palette }: Theme) => {
      const tint = alpha(palette.primary.main, palette.action.selectedOpacity);
      return `linear-gradient(${tint}, ${tint})`;
    },
  },
} as const;
const CELL = { typography: 'body2', overflow: 'hidden', textOverflow: 'ellipsis' } as const;
