/** Statistics: the figures of all equipment of a kind, each where it lies beside what is normal. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { errorText } from '../../api/errors';
import { plantQuery } from '../../api/queries';
import { saveCsv } from '../../shared/lib/download';
import { Told } from '../../shared/ui';
import { ControlPanel, type Charted } from './ControlPanel';
import { Lanes } from './Lanes';
import { lanesOf, sheetText, usualLines } from './lanes';
import { LinesPanel } from './LinesPanel';
import { kindsQuery, sheetQuery } from './queries';
import { SheetHead } from './SheetHead';
import { parseSheet, sheetParams, type SheetState } from './state';
import { StatisticsView } from './StatisticsView';

export function StatisticsPage(): ReactElement {
  const [params, setParams] = useSearchParams();
  const state = useMemo(() => parseSheet(params), [params]);
  const change = (more: Partial<SheetState>): void =>
    setParams(sheetParams({ ...state, ...more }), { replace: true });
  const [choosing, setChoosing] = useState(false);
  const [charted, setCharted] = useState<Charted | null>(null);

  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const { data: kinds, error: unknown } = useQuery(kindsQuery);
  const kind = kinds?.find((one) => one.name === state.kind) ?? kinds?.[0] ?? null;
  const lines = useMemo(() => state.lines ?? (kind === null ? [] : usualLines(kind)), [state.lines, kind]);
  const { data, error, isPlaceholderData } = useQuery(sheetQuery(kind, lines, state));
  const lanes = useMemo(
    () => (data === undefined ? [] : lanesOf(data.kind, data.lines, data.sheet, state.sorted)),
    [data, state.sorted],
  );
  const failure = unknown ?? error;
  return (
    <StatisticsView
      head={
        <SheetHead
          {...{ kinds: kinds ?? [], kind, state, sheet: data?.sheet, zone, choosing }}
          onChange={change}
          onChoose={() => setChoosing(!choosing)}
          onSave={() =>
            data !== undefined && saveCsv(sheetText(lanes, data.kind.equipment), 'statistics.csv')
          }
        />
      }
      failure={failure === null ? '' : errorText(failure)}
      empty={kinds?.length === 0}
      stale={isPlaceholderData}
      below={charted !== null && <ControlPanel {...{ charted, zone }} onClose={() => setCharted(null)} />}
      panel={
        choosing && kind !== null ? (
          <LinesPanel
            {...{ kind, lines }}
            onLines={(next) => change({ lines: next })}
            onClose={() => setChoosing(false)}
          />
        ) : null
      }
    >
      {data !== undefined ? (
        <Lanes
          {...{ lanes, equipment: data.kind.equipment, window: data.sheet.window }}
          beside={data.sheet.beside != null}
          onChart={setCharted}
        />
      ) : (
        failure === null && (
          <Box sx={{ p: 2 }}>
            <Told>Reading …</Told>
          </Box>
        )
      )}
    </StatisticsView>
  );
}
