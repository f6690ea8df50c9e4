/** A table of figures: what each is, how it was made, and rows ordered by any column. */
import { Box } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import * as wording from 'texts/statistics.json';
import { DataTable, type Column } from '../../../ui';
import { CellFigure } from './CellFigure';
import type { Charted } from '../drilldown/ControlPanel';
import { nextOrder, type Grid, type GridColumn, type GridRow } from './table';
import type { SheetState } from '../sheet/state';
import { unitShown } from '../../../entities/stats/labels';

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
  const sisters = useMemo(() => [...new Set(rows.map((row) => row.tag.uid))], [rows]);
  const columns: Column<GridRow>[] = [
    {
      name: wording.figureValuesAreMissing,
      isHead: true,
      of: (row) => (
        <>
          {row.name}
          <Box component="span" sx={{ typography: 'caption', color: 'text.secondary', ml: 1 }}>
            {unitOf(row)}
          </Box>
        </>
      ),
    },
    ...grid.columns.map((column, place): Column<GridRow> => ({
      id: column.key,
      name: column.name,
      note: column.note,
      right: true,
      value: (row) => row.cells[place]?.value ?? null,
      of: (row) => <GridCell {...{ row, column, place, beside, sisters, onChart }} />,
    })),
  ];
  const ordering = order === null ? undefined : grid.columns[order.column];
  return (
    <Box sx={{ width: 'fit-content', minWidth: '60%' }}>
      <DataTable
        label={label}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.key}
        empty={wording.thereIsNoFigure}
        order={ordering === undefined ? null : { id: ordering.key, desc: order?.down === true }}
        onOrder={(id) =>
          onOrder(
            nextOrder(
              order,
              grid.columns.findIndex(({ key }) => key === id),
            ),
          )
        }
      />
    </Box>
  );
}

/** All cells of a row over time have one unit; those of different statistics have their tag's. */
function unitOf({ stats, tag, cells }: GridRow): string {
  const alike = stats.every((one) => one === stats[0]);
  if (alike && (stats[0] === 'PercentGood' || stats[0] === 'PercentBad')) return '';
  const unit = alike ? (cells.find((cell) => cell.unit !== '')?.unit ?? '') : tag.unit;
  return alike ? unitShown(stats[0] ?? '', unit) : unit;
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
