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
import { lanesOf, sheetText, usualLines, type Kind } from './lanes';
import { LinesPanel } from './LinesPanel';
import { kindsQuery, sheetQuery } from './queries';
import { ReportsPanel } from './ReportsPanel';
import { SheetHead, type Opened } from './SheetHead';
import { SheetsPanel } from './SheetsPanel';
import { parseSheet, sheetParams, type Line, type SheetState } from './state';
import { StatisticsView } from './StatisticsView';

export function StatisticsPage(): ReactElement {
  const [params, setParams] = useSearchParams();
  const state = useMemo(() => parseSheet(params), [params]);
  const change = (more: Partial<SheetState>): void =>
    setParams(sheetParams({ ...state, ...more }), { replace: true });
  const [opened, setOpened] = useState<Opened | null>(null);
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
          {...{ kinds: kinds ?? [], kind, state, sheet: data?.sheet, zone, opened }}
          onChange={change}
          onOpen={(panel) => setOpened(opened === panel ? null : panel)}
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
        kind !== null &&
        opened !== null && (
          <OpenedPanel
            {...{ opened, kind, lines, state, zone }}
            onLines={(next) => change({ lines: next })}
            onView={(view) => setParams(new URLSearchParams(view))}
            onClose={() => setOpened(null)}
          />
        )
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

interface OpenedPanelProps {
  opened: Opened;
  kind: Kind;
  lines: readonly Line[];
  state: SheetState;
  zone: string;
  onLines: (lines: readonly Line[] | null) => void;
  onView: (view: string) => void;
  onClose: () => void;
}

function OpenedPanel(props: OpenedPanelProps): ReactElement {
  const { opened, kind, lines, state, zone, onLines, onView, onClose } = props;
  switch (opened) {
    case 'lines':
      return <LinesPanel {...{ kind, lines, onLines, onClose }} />;
    case 'sheets':
      return <SheetsPanel view={sheetParams(state).toString()} onOpen={onView} onClose={onClose} />;
    case 'reports':
      return <ReportsPanel {...{ kind, lines, zone, onClose }} norm={state.norm} />;
  }
}
