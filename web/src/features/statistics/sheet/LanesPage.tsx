/** The figures of all equipment of a kind, each where it lies beside what is normal. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { saveCsv } from '../../../platform/download';
import type { Span } from '../../../domain/time';
import { Told } from '../../../ui';
import type { DrilldownLook } from '../drilldown/drilldown';
import { DrilldownPanel } from '../drilldown/DrilldownPanel';
import { ControlPanel, type Charted } from '../drilldown/ControlPanel';
import { Lanes } from './Lanes';
import { SharedGap } from './SharedGap';
import { lanesOf, sheetText, usualLines, type Kind, type Lane, type Sheet } from './lanes';
import { LinesPanel } from '../table/LinesPanel';
import { ReportsPanel } from './ReportsPanel';
import { SheetHead, type Opened } from './SheetHead';
import { SheetsPanel } from './SheetsPanel';
import { parseSheet, sheetParams, type Line, type SheetState } from './state';
import { StatisticsView } from '../StatisticsView';
import { plantQuery } from '../../../entities/plant';
import type { Address } from '../../../platform/useAddress';
import { kindsQuery, sheetQuery } from '../../../entities/statistics';

export function LanesPage({ address }: { address: Address }): ReactElement {
  const [params, write] = address;
  const state = useMemo(() => parseSheet(params), [params]);
  const change = (more: Partial<SheetState>): void => write(sheetParams({ ...state, ...more }));
  const [opened, setOpened] = useState<Opened | null>(null);
  const [below, setBelow] = useState<Below | null>(null);

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
          kinds={kinds ?? []}
          kind={kind}
          state={state}
          zone={zone}
          opened={opened}
          shown={data?.sheet}
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
      below={
        below !== null && (
          <BelowPanel below={below} state={state} zone={zone} onClose={() => setBelow(null)} />
        )
      }
      panel={
        kind !== null &&
        opened !== null && (
          <OpenedPanel
            opened={opened}
            kind={kind}
            lines={lines}
            state={state}
            zone={zone}
            onLines={(next) => change({ lines: next })}
            onView={(view) => write(new URLSearchParams(view), true)}
            onClose={() => setOpened(null)}
          />
        )
      }
    >
      {data !== undefined ? (
        <SharedGap cells={lanes.flatMap((lane) => lane.marks.map((mark) => mark.cell))}>
          <Lanes
            lanes={lanes}
            equipment={data.kind.equipment}
            window={data.sheet.window}
            beside={data.sheet.beside != null}
            onChart={(charted) => setBelow({ charted })}
            onDrilldown={(lane) =>
              setBelow({
                kind: data.kind,
                look: lookOf(lane, data.kind.equipment, data.sheet.window),
              })
            }
          />
        </SharedGap>
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
      return <LinesPanel kind={kind} lines={lines} onLines={onLines} onClose={onClose} />;
    case 'sheets':
      return <SheetsPanel view={sheetParams(state).toString()} onOpen={onView} onClose={onClose} />;
    case 'reports':
      return <ReportsPanel kind={kind} lines={lines} zone={zone} onClose={onClose} norm={state.norm} />;
  }
}

/** What is opened under the lanes: a control chart of one figure, or a closer look at one of all pieces. */
type Below = { charted: Charted } | { look: DrilldownLook; kind: Kind };

/** The window stays the one that was on the screen, while a live sheet goes on. */
function lookOf(
  { line, member }: Lane,
  equipment: readonly string[],
  window: Sheet['window'],
): DrilldownLook {
  return {
    member: member.name,
    stat: line.stat,
    decimals: member.decimals,
    contact: member.value_type === 'boolean',
    pieces: equipment.flatMap((name, i) => {
      const tag = member.tags[i];
      return tag == null ? [] : [{ name, tag }];
    }),
    range: spanOf(window),
  };
}

/** The window that is shown; before there is one, none that matters. */
function spanOf(window: Sheet['window'] | undefined): Span {
  return { startUs: Number(window?.start_us ?? 0), endUs: Number(window?.end_us ?? 1) };
}

interface BelowPanelProps {
  below: Below;
  state: SheetState;
  zone: string;
  onClose: () => void;
}

function BelowPanel({ below, state, zone, onClose }: BelowPanelProps): ReactElement {
  if ('charted' in below) return <ControlPanel zone={zone} onClose={onClose} charted={below.charted} />;
  const key = `${below.look.member} ${below.look.stat}`;
  return (
    <DrilldownPanel
      key={key}
      zone={zone}
      onClose={onClose}
      look={below.look}
      kind={below.kind}
      norm={state.norm}
      sorted={state.sorted}
    />
  );
}
