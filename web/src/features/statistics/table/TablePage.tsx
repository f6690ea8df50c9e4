/** Tables of figures: tags by statistics in one window, or statistics over stretches of time. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import type { Tag } from '../../../platform/client';
import { errorText } from '../../../platform/errors';
import { saveCsv } from '../../../platform/download';
import { Told } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import type { Charted } from '../drilldown/ControlPanel';
import { FigureGrid } from './FigureGrid';
import { SharedGap } from '../sheet/SharedGap';
import type { Sheet } from '../sheet/lanes';
import { SheetHead, type Opened } from '../sheet/SheetHead';
import { useUsualWindow } from '../sheet/useUsualWindow';
import { parseSheet, sheetParams, type SheetState } from '../sheet/state';
import { StatisticsView } from '../StatisticsView';
import { gridOfStretches, gridOfTags, gridText, ordered, usualStats, usualTags, type Grid } from './table';
import { plantQuery } from '../../../entities/plant';
import type { Address } from '../../../platform/useAddress';
import { tagNamesQuery } from '../../../entities/tags';
import { kindsQuery, stretchesQuery, tagsTableQuery } from '../../../entities/statistics';

const TablePanel = lazyPart(wording.whatIsShown, async () => (await import('./TablePanel')).TablePanel);
const SavedSheets = lazyPart(
  wording.theListOfSheets,
  async () => (await import('../../../entities/saved/SavedSheets')).SavedSheets,
);
const ControlPanel = lazyPart(
  wording.theControlChart,
  async () => (await import('../drilldown/ControlPanel')).ControlPanel,
);
const PRELOADED = [TablePanel, SavedSheets, ControlPanel];

export function TablePage({ address }: { address: Address }): ReactElement {
  const [params, write] = address;
  const usual = useUsualWindow();
  const state = useMemo(() => parseSheet(params, usual), [params, usual]);
  const change = (more: Partial<SheetState>): void => write(sheetParams({ ...state, ...more }));
  const [opened, setOpened] = useState<Opened | null>(null);
  const [charted, setCharted] = useState<Charted | null>(null);
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const { data: kinds, error: unknown } = useQuery(kindsQuery);
  const uids = state.tags.length > 0 ? state.tags : usualTags(kinds ?? [], state.form);
  const { data: named = [], error: lost } = useQuery(tagNamesQuery(uids));
  const tags = inOrderOf(uids, named);
  const { grid, shown, error, stale } = useGrid(tags, state, zone);
  const rows = ordered(grid?.rows ?? [], state.order);
  const failure = unknown ?? lost ?? error;
  usePreloaded(grid !== undefined, PRELOADED);
  const close = (): void => setOpened(null);
  return (
    <StatisticsView
      head={
        <SheetHead
          kinds={kinds ?? []}
          kind={null}
          state={state}
          shown={shown}
          zone={zone}
          opened={opened}
          onChange={change}
          onOpen={(panel) => setOpened(opened === panel ? null : panel)}
          onSave={() => grid !== undefined && saveCsv(gridText(grid, rows), 'statistics.csv')}
        />
      }
      failure={failure === null ? '' : errorText(failure)}
      empty={kinds?.length === 0 && state.tags.length === 0}
      stale={stale}
      below={
        charted !== null && <ControlPanel zone={zone} charted={charted} onClose={() => setCharted(null)} />
      }
      panel={
        (opened === 'lines' && (
          <TablePanel
            state={state}
            tags={tags}
            kinds={kinds ?? []}
            shifts={plant?.shifts ?? []}
            zone={zone}
            onChange={change}
            onClose={close}
          />
        )) ||
        (opened === 'sheets' && (
          <SavedSheets
            page="statistics"
            view={sheetParams(state).toString()}
            onOpen={(view) => write(new URLSearchParams(view), true)}
            onClose={close}
          />
        ))
      }
    >
      {grid !== undefined ? (
        <SharedGap cells={rows.flatMap((row) => row.cells)}>
          <FigureGrid
            label={state.form === 'tags' ? wording.tagsByStatistics : wording.statisticsOverTime}
            grid={grid}
            rows={rows}
            order={state.order}
            onChart={setCharted}
            beside={shown?.beside != null}
            onOrder={(order) => change({ order })}
          />
        </SharedGap>
      ) : (
        failure === null && (
          <Box sx={{ p: 2 }}>
            <Told>{common.reading}</Told>
          </Box>
        )
      )}
    </StatisticsView>
  );
}

interface Found {
  grid: Grid | undefined;
  shown: Pick<Sheet, 'window' | 'beside'> | undefined;
  error: Error | null;
  /** What is shown is what was asked for before. */
  stale: boolean;
}

function useGrid(tags: readonly Tag[], state: SheetState, zone: string): Found {
  const stats = usualStats(state);
  const over = state.form === 'stretches';
  const table = useQuery({ ...tagsTableQuery(tags, stats, state), ...(over ? OFF : {}) });
  const stretches = useQuery({ ...stretchesQuery(tags, stats, state), ...(over ? {} : OFF) });
  if (!over) {
    const { data, error, isPlaceholderData: stale } = table;
    const grid = data && gridOfTags(data.tags, data.stats, data.sheet);
    return { grid, shown: data?.sheet, error, stale };
  }
  const { data, error, isPlaceholderData: stale } = stretches;
  const grid = data && gridOfStretches(data.rows, data.found, zone);
  return { grid, shown: grid && { window: wholeOf(grid, zone), beside: null }, error, stale };
}

const OFF = { enabled: false } as const;

/** From the first stretch to the last. */
function wholeOf({ columns }: Grid, zone: string): Sheet['window'] {
  const start = Math.min(...columns.map(({ range }) => range.startUs));
  const end = Math.max(...columns.map(({ range }) => range.endUs));
  return { start_us: String(start), end_us: String(end), start_local: zone, end_local: zone };
}

function inOrderOf(uids: readonly string[], named: readonly Tag[]): Tag[] {
  return uids.flatMap((uid) => named.find((tag) => tag.uid === uid) ?? []);
}
