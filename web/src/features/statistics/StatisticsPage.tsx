/** Statistics: the figures of all equipment of a kind, each where it lies beside what is normal. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { errorText } from '../../api/errors';
import { plantQuery } from '../../api/queries';
import { Told } from '../../shared/ui';
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

  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const { data: kinds, error: unknown } = useQuery(kindsQuery);
  const kind = kinds?.find((one) => one.name === state.kind) ?? kinds?.[0] ?? null;
  const lines = useMemo(() => state.lines ?? (kind === null ? [] : usualLines(kind)), [state.lines, kind]);
  const { data: sheet, error, isPlaceholderData } = useQuery(sheetQuery(kind, lines, state));
  const lanes = useMemo(
    () => (kind === null || sheet === undefined ? [] : lanesOf(kind, lines, sheet, state.sorted)),
    [kind, lines, sheet, state.sorted],
  );
  const failure = unknown ?? error;
  return (
    <StatisticsView
      head={
        <SheetHead
          {...{ kinds: kinds ?? [], kind, state, sheet, zone, choosing }}
          onChange={change}
          onChoose={() => setChoosing(!choosing)}
          onSave={() => kind !== null && save(sheetText(lanes, kind.equipment))}
        />
      }
      failure={failure === null ? '' : errorText(failure)}
      empty={kinds?.length === 0}
      stale={isPlaceholderData}
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
      {kind !== null && sheet !== undefined ? (
        <Lanes {...{ lanes, equipment: kind.equipment, window: sheet.window, beside: state.beside }} />
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

function save(text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob(['\uFEFF', text], { type: 'text/csv;charset=utf-8' }));
  link.download = 'statistics.csv';
  link.click();
  URL.revokeObjectURL(link.href);
}
