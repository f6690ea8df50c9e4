/** What opens beside the lanes and below them. */
import type { ReactElement } from 'react';
import { DrilldownPanel } from '../drilldown/DrilldownPanel';
import type { DrilldownLook } from '../drilldown/drilldown';
import { ControlPanel, type Charted } from '../drilldown/ControlPanel';
import { LinesPanel } from '../table/LinesPanel';
import type { Kind } from './lanes';
import { ReportsPanel } from './ReportsPanel';
import type { Opened } from './SheetHead';
import { SavedSheets } from '../../../entities/saved/SavedSheets';
import { sheetParams, type Line, type SheetState } from './state';

interface OpenedPanelProps {
  opened: Opened;
  kind: Kind;
  lines: readonly Line[];
  state: SheetState;
  zone: string;
  onLines: (lines: readonly Line[] | null) => void;
  onPieces: (pieces: readonly string[]) => void;
  onView: (view: string) => void;
  onClose: () => void;
}

export function OpenedPanel(props: OpenedPanelProps): ReactElement {
  const { opened, kind, lines, state, zone, onLines, onPieces, onView, onClose } = props;
  switch (opened) {
    case 'lines':
      return (
        <LinesPanel key={kind.name} pieces={state.pieces} {...{ kind, lines, onLines, onPieces, onClose }} />
      );
    case 'sheets':
      return (
        <SavedSheets
          page="statistics"
          view={sheetParams(state).toString()}
          onOpen={onView}
          onClose={onClose}
        />
      );
    case 'reports':
      return <ReportsPanel kind={kind} lines={lines} zone={zone} onClose={onClose} norm={state.norm} />;
  }
}

/** What is opened under the lanes: a control chart of one figure, or a closer look at one of all pieces. */
export type Below = { charted: Charted } | { look: DrilldownLook; kind: Kind };

interface BelowPanelProps {
  below: Below;
  state: SheetState;
  zone: string;
  onClose: () => void;
}

export function BelowPanel({ below, state, zone, onClose }: BelowPanelProps): ReactElement {
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
