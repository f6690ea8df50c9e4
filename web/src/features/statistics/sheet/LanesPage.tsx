/** The figures of all equipment of a kind, each where it lies beside what is normal. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { errorText } from '../../../platform/errors';
import { saveCsv } from '../../../platform/download';
import type { Span } from '../../../domain/time';
import { Told } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import type { DrilldownLook } from '../drilldown/drilldown';
import { Lanes } from './Lanes';
import { SharedGap } from './SharedGap';
import { lanesOf, sheetText, shownPieces, usualLines, type Kind, type Lane, type Sheet } from './lanes';
import { SheetHead, type Opened } from './SheetHead';
import type { Below } from './LanesPanels';
import { useUsualWindow } from './useUsualWindow';
import { parseSheet, sheetParams, type SheetState } from './state';
import { StatisticsView } from '../StatisticsView';
import { plantQuery } from '../../../entities/plant';
import type { Address } from '../../../platform/useAddress';
import { kindsQuery, sheetQuery } from '../../../entities/statistics';

const OpenedPanel = lazyPart(common.thisPanel, async () => (await import('./LanesPanels')).OpenedPanel);
const BelowPanel = lazyPart(wording.theCloserLook, async () => (await import('./LanesPanels')).BelowPanel);
const PRELOADED = [OpenedPanel, BelowPanel];

export function LanesPage({ address }: { address: Address }): ReactElement {
  const [params, write] = address;
  const usual = useUsualWindow();
  const state = useMemo(() => parseSheet(params, usual), [params, usual]);
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
    () => (data === undefined ? [] : lanesOf(data.kind, data.lines, data.sheet, state)),
    [data, state],
  );
  usePreloaded(data !== undefined, PRELOADED);
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
            data !== undefined && saveCsv(sheetText(lanes, shownNames(data.kind, state)), 'statistics.csv')
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
            onPieces={(pieces) => change({ pieces })}
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
            equipment={shownNames(data.kind, state)}
            window={data.sheet.window}
            beside={data.sheet.beside != null}
            onChart={(charted) => setBelow({ charted })}
            onDrilldown={(lane) =>
              setBelow({
                kind: data.kind,
                look: lookOf(lane, data.kind, state, data.sheet.window),
              })
            }
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

/** The window stays the one that was on the screen, while a live sheet goes on. */
function lookOf(
  { line, member }: Lane,
  kind: Kind,
  { pieces }: SheetState,
  window: Sheet['window'],
): DrilldownLook {
  return {
    member: member.name,
    stat: line.stat,
    decimals: member.decimals,
    contact: member.value_type === 'boolean',
    pieces: shownPieces(kind, pieces).flatMap(({ name, place }) => {
      const tag = member.tags[place];
      return tag == null ? [] : [{ name, tag }];
    }),
    range: spanOf(window),
  };
}

function shownNames(kind: Kind, { pieces }: SheetState): string[] {
  return shownPieces(kind, pieces).map(({ name }) => name);
}

/** The window that is shown; before there is one, none that matters. */
function spanOf(window: Sheet['window'] | undefined): Span {
  return { startUs: Number(window?.start_us ?? 0), endUs: Number(window?.end_us ?? 1) };
}
