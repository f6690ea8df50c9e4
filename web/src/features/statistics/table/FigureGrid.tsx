/** A table of figures: what each is, how it was made, and rows ordered by any column. */
import { ArrowDownward, ArrowUpward } from '@mui/icons-material';
import { Box, ButtonBase } from '@mui/material';
import type { ReactElement } from 'react';
import { CellFigure } from './CellFigure';
import type { Charted } from '../drilldown/ControlPanel';
import { nextOrder, type Grid, type GridColumn, type GridRow } from './table';
import type { SheetState } from '../sheet/state';

interface FigureGridProps {
  label: string;
  grid: Grid;
  rows: readonly GridRow[];
  order: SheetState['order'];
  beside: boolean;
  onOrder: (order: SheetState['order']) => void;
  onChart: (charted: Charted) => void;
}

export function FigureGrid(props: FigureGridProps): ReactElement {
  const { label, grid, rows, order, beside, onOrder, onChart } = props;
  const sisters = [...new Set(rows.map((row) => row.tag.uid))];
  return (
    <Box
      component="table"
      aria-label={label}
      sx={{
        typography: 'body2',
        borderCollapse: 'collapse',
        minWidth: '60%',
        '& th': { fontWeight: 400 },
        '& td, & th': { px: 1, whiteSpace: 'nowrap' },
        '& thead th': {
          typography: 'caption',
          position: 'sticky',
          top: 0,
          zIndex: 2,
          bgcolor: 'background.default',
          py: 0.5,
          color: 'text.secondary',
          textAlign: 'right',
          verticalAlign: 'bottom',
        },
        '& tbody tr': { borderTop: 1, borderColor: 'divider' },
        // Of a wide table it stays said what the figures are of.
        '& tr > :first-of-type': {
          position: 'sticky',
          left: 0,
          bgcolor: 'background.default',
          whiteSpace: { xs: 'normal', md: 'nowrap' },
          minWidth: { xs: 150 },
        },
        '& thead tr > :first-of-type': { zIndex: 3 },
      }}
    >
      <thead>
        <tr>
          <Box component="th" scope="col" sx={{ textAlign: 'left !important', pl: '16px !important' }}>
            Figure · ?: values are missing
          </Box>
          {grid.columns.map((column, i) => (
            <ColumnHead
              key={column.key}
              column={column}
              down={order?.column === i ? order.down : null}
              onClick={() => onOrder(nextOrder(order, i))}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.key}>
            <Box component="th" scope="row" sx={{ textAlign: 'left', pl: '16px !important' }}>
              {row.name}
              <Box component="span" sx={{ typography: 'caption', color: 'text.secondary', ml: 1 }}>
                {unitOf(row)}
              </Box>
            </Box>
            {grid.columns.map((column, i) => (
              <Box component="td" key={column.key} sx={{ textAlign: 'right' }}>
                <GridCell
                  row={row}
                  column={column}
                  beside={beside}
                  sisters={sisters}
                  onChart={onChart}
                  place={i}
                />
              </Box>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

/** All cells of a row over time have one unit; those of different statistics have their tag's. */
function unitOf({ stats, tag, cells }: GridRow): string {
  const alike = stats.every((one) => one === stats[0]);
  if (alike && stats[0] === 'PercentGood') return '';
  const unit = alike ? (cells.find((cell) => cell.unit !== '')?.unit ?? '') : tag.unit;
  return unit === 'ms' ? 's' : unit;
}

interface ColumnHeadProps {
  column: GridColumn;
  /** Null: the rows are not ordered by it. */
  down: boolean | null;
  onClick: () => void;
}

function ColumnHead({ column, down, onClick }: ColumnHeadProps): ReactElement {
  const sort = down === null ? 'none' : down ? 'descending' : 'ascending';
  const Arrow = down === true ? ArrowDownward : ArrowUpward;
  return (
    <th scope="col" aria-sort={sort}>
      <ButtonBase
        onClick={onClick}
        sx={{ font: 'inherit', flexDirection: 'column', alignItems: 'flex-end', px: 0.5, minHeight: 24 }}
      >
        <Box component="span" sx={{ color: 'text.primary', display: 'flex', alignItems: 'center' }}>
          {down !== null && <Arrow fontSize="inherit" />}
          {column.name}
        </Box>
        {column.note !== '' && <span>{column.note}</span>}
      </ButtonBase>
    </th>
  );
}

interface GridCellProps {
  row: GridRow;
  column: GridColumn;
  place: number;
  beside: boolean;
  sisters: readonly string[];
  onChart: (charted: Charted) => void;
}

function GridCell({ row, column, place, beside, sisters, onChart }: GridCellProps): ReactElement {
  const { tag } = row;
  const cell = row.cells[place];
  if (cell === undefined) return <span>–</span>;
  const { startUs, endUs } = column.range;
  return (
    <CellFigure
      mark={{ name: tag.name, cell, at: null, beyond: false }}
      line={{ member: column.name, stat: row.stats[place] ?? '' }}
      member={{
        name: column.about,
        unit: tag.unit,
        value_type: tag.value_type,
        decimals: tag.decimals,
        tags: [tag.uid],
      }}
      window={{ start_us: String(startUs), end_us: String(endUs) }}
      beside={beside}
      sisters={sisters}
      onChart={onChart}
    />
  );
}
