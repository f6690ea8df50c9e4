import { ButtonBase, Checkbox, TableCell, TableRow } from '@mui/material';
import { alpha, type Theme } from '@mui/material/styles';
import { memo, type DragEvent, type ReactElement, type RefObject } from 'react';
import { idOf, type Column } from './columns';

/** What is done with rows, as it is at the moment at which somebody does it. */
export interface RowActions<T> {
  onSelect: ((row: T) => void) | undefined;
  onToggle: ((key: string) => void) | undefined;
  onDrag: ((event: DragEvent, row: T) => void) | undefined;
  onDragEnd: ((event: DragEvent) => void) | undefined;
}

interface DataRowProps<T> {
  row: T;
  rowKey: string;
  /** Its place among all rows. */
  place: number;
  columns: readonly Column<T>[];
  isSelected: boolean;
  isChosen: boolean;
  /** The Tab key stops at it. */
  isStop: boolean;
  /** What it is called where it can be chosen; null: it cannot. */
  chosenAs: string | null;
  canOpen: boolean;
  canBeDragged: boolean;
  actions: RefObject<RowActions<T>>;
}

/** One row; where rows can be opened its first cell is the button for it. */
function PlainRow<T>(props: DataRowProps<T>): ReactElement {
  const { row, rowKey, place, columns, isSelected, isChosen, isStop, chosenAs, canOpen } = props;
  const { canBeDragged, actions } = props;
  return (
    <TableRow
      hover={canOpen}
      selected={isSelected || isChosen}
      aria-rowindex={place + 2}
      onClick={() => actions.current.onSelect?.(row)}
      draggable={canBeDragged}
      onDragStart={(event) => actions.current.onDrag?.(event, row)}
      onDragEnd={(event) => actions.current.onDragEnd?.(event)}
      sx={canOpen ? OPENS : STANDS}
    >
      {chosenAs !== null && (
        <TableCell padding="checkbox" onClick={(event) => event.stopPropagation()}>
          <Checkbox
            size="small"
            checked={isChosen}
            onChange={() => actions.current.onToggle?.(rowKey)}
            slotProps={{ input: { 'aria-label': `Choose ${chosenAs}` } }}
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
          {i === 0 && canOpen ? (
            <ButtonBase
              data-row={place}
              tabIndex={isStop ? 0 : -1}
              onClick={(event) => {
                event.stopPropagation();
                actions.current.onSelect?.(row);
              }}
              sx={NAME}
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

/** A row is drawn anew when something of its own is another thing, not with each step of scrolling. */
export const DataRow = memo(PlainRow) as typeof PlainRow;

const OPENS = { cursor: 'pointer' } as const;
const STANDS = { cursor: 'default' } as const;
const NAME = { font: 'inherit', textAlign: 'left' } as const;
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
