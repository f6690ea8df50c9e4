/** What lies beside the pens, and when a live window moves. */
import { Box, MenuItem, MenuList, Popover, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { errorText } from '../../../platform/errors';
import { DAY, HOUR, MINUTE, SECOND, type Span } from '../../../domain/time';
import { Choice, DurationLine, Told } from '../../../ui';
import type { HeadProps } from '../model/headProps';
import type { Refresh } from '../model/state';
import { earlierBy } from '../model/ghosts';
import { TagChoice } from '../../../entities/TagChoice';
import { findRuns } from '../../../entities/runs';

const GHOSTS: readonly [string, number][] = [
  [common.nothing, 0],
  [wording.anHourBefore, HOUR],
  [wording.n8HoursBefore, 8 * HOUR],
  [wording.theDayBefore, DAY],
  [wording.theWeekBefore, 7 * DAY],
];

export interface MenuProps extends HeadProps {
  anchor: HTMLElement;
  onClose: () => void;
}

export function CompareMenu({ anchor, ghostUs, refresh, on, onClose }: MenuProps): ReactElement {
  // The window when the menu was opened.
  const [span] = useState(on.spanNow);
  const choose = (us: number): void => {
    on.onGhost(us);
    onClose();
  };
  const comparing = useMutation({ mutationFn: previousRun, onSuccess: choose });
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': wording.compare } }}
    >
      <Ghosts ghostUs={ghostUs} onGhost={choose} onRun={() => comparing.mutate(span)} />
      {comparing.error !== null && <Told kind="error">{errorText(comparing.error)}</Told>}
      <RefreshFields refresh={refresh} onRefresh={on.onRefresh} />
    </Popover>
  );
}

const A_MONTH = 31 * DAY;

/** How much earlier the run before that of a window began; of the same rule, or both marked by people. */
async function previousRun({ startUs, endUs }: Span): Promise<number> {
  const runs = await findRuns({ startUs: Math.max(startUs - A_MONTH, 0), endUs });
  const us = earlierBy(runs, { startUs, endUs });
  if (us === null) throw new Error(wording.noRunTouchesTheWindowThat);
  return us;
}

const REFRESHED = [
  { value: 'always', label: wording.continuously },
  { value: 'every', label: wording.atAnInterval },
  { value: 'tag', label: wording.byATag },
];

const MOVES = [
  { value: 'usual', label: wording.edgeUsual },
  { value: 'rising', label: wording.risingEdge },
  { value: 'falling', label: wording.fallingEdge },
  { value: 'either', label: wording.eitherEdge },
  { value: 'level', label: wording.whileItIsTrue },
] as const;

interface GhostsProps {
  ghostUs: number;
  onGhost: (us: number) => void;
  onRun: () => void;
}

/** What lies beside the window, pale. */
function Ghosts({ ghostUs, onGhost, onRun }: GhostsProps): ReactElement {
  return (
    <>
      <Typography variant="caption" sx={{ px: 2, pt: 1, color: 'text.secondary' }}>
        {wording.compareWith}
      </Typography>
      <MenuList aria-label={wording.compareWith} dense>
        {GHOSTS.map(([label, us]) => (
          <MenuItem key={label} dense selected={us === ghostUs} onClick={() => onGhost(us)}>
            {label}
          </MenuItem>
        ))}
        <MenuItem dense onClick={onRun}>
          {wording.theRunBeforeThisOne}
        </MenuItem>
      </MenuList>
    </>
  );
}

interface RefreshFieldsProps {
  refresh: Refresh | null;
  onRefresh: (refresh: Refresh | null) => void;
}

/** When a live window moves. */
function RefreshFields({ refresh, onRefresh }: RefreshFieldsProps): ReactElement {
  const [kind, setKind] = useState(refresh === null ? 'always' : 'tag' in refresh ? 'tag' : 'every');
  const choose = (next: string): void => {
    setKind(next);
    if (next !== 'tag') onRefresh(next === 'every' ? { everyUs: MINUTE } : null);
  };
  return (
    <Box sx={{ display: 'grid', gap: 1.5, px: 2, py: 1.5, width: 300, borderTop: 1, borderColor: 'divider' }}>
      <Choice label={wording.aLiveWindowMoves} value={kind} options={REFRESHED} onChange={choose} />
      {refresh !== null && 'everyUs' in refresh && (
        <DurationLine
          label={common.every}
          value={refresh.everyUs}
          onChange={(us) => us >= SECOND && onRefresh({ everyUs: us })}
        />
      )}
      {refresh !== null && 'tag' in refresh && (
        <Choice
          label={wording.movesAt}
          value={refresh.edge ?? 'usual'}
          options={MOVES}
          onChange={(edge) => onRefresh(edge === 'usual' ? { tag: refresh.tag } : { tag: refresh.tag, edge })}
        />
      )}
      {kind === 'tag' && (
        <TagChoice
          label={wording.triggerTag}
          value={refresh !== null && 'tag' in refresh ? refresh.tag : null}
          none={common.chooseOne}
          onChange={(tag) => onRefresh(tag === null ? null : { ...refresh, tag })}
        />
      )}
    </Box>
  );
}
