/** One row of a table. Its elements are the browser's own, and one style for all rows stands at the table: of components of
 * the library, each with a style of its own, a screen of rows takes several pictures. */
import { memo, type DragEvent, type ReactElement, type RefObject } from 'react';
import * as wording from 'texts/ui.json';
import { fill } from '../../domain/fill';
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
    <tr
      className={`row ${canOpen ? 'row-opens' : ''} ${isSelected || isChosen ? 'row-selected' : ''}`}
      aria-rowindex={place + 2}
      onClick={() => actions.current.onSelect?.(row)}
      draggable={canBeDragged}
      onDragStart={(event) => actions.current.onDrag?.(event, row)}
      onDragEnd={(event) => actions.current.onDragEnd?.(event)}
    >
      {chosenAs !== null && (
        <td className="row-choice" onClick={(event) => event.stopPropagation()}>
          <input
            type="checkbox"
            checked={isChosen}
            onChange={() => actions.current.onToggle?.(rowKey)}
            aria-label={fill(wording.chooseChosenAs, { chosenAs })}
          />
        </td>
      )}
      {columns.map((column, i) => {
        const Cell = column.isHead === true ? 'th' : 'td';
        return (
          <Cell
            key={idOf(column)}
            className={`row-cell ${column.isHead === true ? 'row-head' : ''} ${column.right === true ? 'row-right' : ''}`}
            {...(column.isHead === true ? { scope: 'row' } : {})}
          >
            {i === 0 && canOpen ? (
              <button
                type="button"
                className="row-button"
                data-row={place}
                tabIndex={isStop ? 0 : -1}
                onClick={(event) => {
                  event.stopPropagation();
                  actions.current.onSelect?.(row);
                }}
              >
                {column.of(row)}
              </button>
            ) : (
              column.of(row)
            )}
          </Cell>
        );
      })}
    </tr>
  );
}

/** A row is drawn anew when something of its own is another thing, not with each step of scrolling. */
export const DataRow = memo(PlainRow) as typeof PlainRow;
