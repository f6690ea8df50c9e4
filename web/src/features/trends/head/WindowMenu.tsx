/** The menu of a trend's window: windows by words, comparisons with earlier. */
import { ScheduleOutlined } from '@mui/icons-material';
import { Box, Button, MenuItem, MenuList, Popover, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { DAY, HOUR, MINUTE, SECOND, type Span } from '../../../domain/time';
import { Choice, DurationLine, TextLine, Told } from '../../../ui';
import type { HeadProps } from '../model/headProps';
import type { Refresh } from '../model/state';
import { earlierBy } from '../model/ghosts';
import { parseStretch } from '../../../domain/stretch';
import { TagChoice } from '../../../entities/TagChoice';
import { findWindow } from '../../../entities/windows';
import { findRuns } from '../../../entities/runs';

const NAMED = [
  ['This shift', 'shift', 'this'],
  ['Last shift', 'shift', 'last'],
  ['Today', 'day', 'this'],
  ['Yesterday', 'day', 'last'],
  ['This week', 'week', 'this'],
  ['Last week', 'week', 'last'],
] as const;

const GHOSTS: readonly [string, number][] = [
  ['nothing', 0],
  ['an hour before', HOUR],
  ['8 hours before', 8 * HOUR],
  ['the day before', DAY],
  ['the week before', 7 * DAY],
];

export function WindowMenu({ zone, ghostUs, refresh, on }: HeadProps): ReactElement {
  const { onSpan, onGhost, onFirst, onLast, onRefresh } = on;
  const [opened, setOpened] = useState<{ anchor: HTMLElement; span: Span } | null>(null);
  const [text, setText] = useState('');
  const close = (): void => setOpened(null);
  const asking = useMutation({
    mutationFn: ([unit, which]: readonly ['shift' | 'day' | 'week', 'this' | 'last']) =>
      findWindow(unit, which),
    onSuccess: (found) => {
      onSpan({ startUs: Number(found.start_us), endUs: Number(found.end_us) });
      close();
    },
  });
  const comparing = useMutation({
    mutationFn: (span: Span) => previousRun(span),
    onSuccess: (us) => {
      onGhost(us);
      close();
    },
  });
  const typed = opened === null ? null : parseStretch(text, zone, opened.span);
  return (
    <>
      <Button
        size="small"
        startIcon={<ScheduleOutlined />}
        aria-haspopup="menu"
        onClick={(event) => setOpened({ anchor: event.currentTarget, span: on.spanNow() })}
      >
        Window
      </Button>
      <Popover
        open={opened !== null}
        anchorEl={opened?.anchor ?? null}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Window' } }}
      >
        <MenuList aria-label="Windows by words" dense>
          {NAMED.map(([label, unit, which]) => (
            <MenuItem key={label} dense onClick={() => asking.mutate([unit, which])}>
              {label}
            </MenuItem>
          ))}
          <MenuItem
            dense
            onClick={() => {
              onFirst();
              close();
            }}
          >
            To the first sample
          </MenuItem>
          <MenuItem
            dense
            divider
            onClick={() => {
              onLast();
              close();
            }}
          >
            To the last sample
          </MenuItem>
        </MenuList>
        <Box
          component="form"
          sx={{ px: 2, py: 1, width: 300 }}

          onSubmit={(event) => {
            event.preventDefault();
            if (typed === null) return;
            onSpan(typed);
            close();
          }}
        >
          <TextLine
            label="From and to, or a moment"
            value={text}
            placeholder="24.11. 06:00 to 14:00"
            onChange={setText}
            problem={
              text !== '' && typed === null
                ? 'Write 24.11. 06:00 to 14:00, 2026-11-24 08:30, or an ISO 8601 interval.'
                : undefined
            }
          />
        </Box>
        <Calendar
          onMoments={(from, to) => {
            const span = opened === null ? null : parseStretch(`${from} to ${to}`, zone, opened.span);
            if (span === null) return false;
            onSpan(span);
            close();
            return true;
          }}
        />
        <Ghosts
          ghostUs={ghostUs}
          onGhost={(us) => {
            onGhost(us);
            close();
          }}
          onRun={() => opened !== null && comparing.mutate(opened.span)}
        />
        <RefreshFields refresh={refresh} onRefresh={onRefresh} />
        {[asking.error, comparing.error].map(
          (error) =>
            error !== null && (
              <Told key={errorText(error)} kind="error">
                {errorText(error)}
              </Told>
            ),
        )}
      </Popover>
    </>
  );
}

const A_MONTH = 31 * DAY;

/** How much earlier the run before that of a window began; of the same rule, or both marked by people. */
async function previousRun({ startUs, endUs }: Span): Promise<number> {
  const runs = await findRuns({ startUs: Math.max(startUs - A_MONTH, 0), endUs });
  const us = earlierBy(runs, { startUs, endUs });
  if (us === null) throw new Error('No run touches the window that has another one of its kind before it.');
  return us;
}

const REFRESHED = [
  { value: 'always', label: 'all the time' },
  { value: 'every', label: 'every so often' },
  { value: 'tag', label: 'when a tag becomes true or changes' },
];

interface GhostsProps {
  ghostUs: number;
  onGhost: (us: number) => void;
  onRun: () => void;
}

/** What lies beside the window, pale. */
function Ghosts({ ghostUs, onGhost, onRun }: GhostsProps): ReactElement {
  return (
    <>
      <Typography sx={{ px: 2, pt: 1, fontSize: 11.5, color: 'text.secondary' }}>
        Drawn beside it, from the same pens
      </Typography>
      <MenuList aria-label="What is drawn beside it" dense>
        {GHOSTS.map(([label, us]) => (
          <MenuItem key={label} dense selected={us === ghostUs} onClick={() => onGhost(us)}>
            {label}
          </MenuItem>
        ))}
        <MenuItem dense onClick={onRun}>
          the run before this one
        </MenuItem>
      </MenuList>
    </>
  );
}

interface CalendarProps {
  /** False where they make no window. */
  onMoments: (from: string, to: string) => boolean;
}

/** Two moments from the browser's own calendar, as clocks at the plant show them. */
function Calendar({ onMoments }: CalendarProps): ReactElement {
  const [from, setFrom] = useState('');
  const [to, setTo] = useState('');
  const [wrong, setWrong] = useState(false);
  const field = (label: string, value: string, onChange: (next: string) => void): ReactElement => (
    <TextField
      variant="standard"
      size="small"
      label={label}
      type="datetime-local"
      value={value}
      error={wrong}
      onChange={(event) => onChange(event.target.value)}
      slotProps={{ inputLabel: { shrink: true }, htmlInput: { step: 1 } }}
    />
  );
  return (
    <Box
      component="form"
      sx={{ display: 'grid', gap: 1, px: 2, py: 1, width: 300 }}

      onSubmit={(event) => {
        event.preventDefault();
        setWrong(!onMoments(from, to));
      }}
    >
      {field('From, plant time', from, setFrom)}
      {field('to', to, setTo)}
      {wrong && <Told kind="error">The second moment has to be behind the first one.</Told>}
      <Box>
        <Button size="small" type="submit" disabled={from === '' || to === ''}>
          Show it
        </Button>
      </Box>
    </Box>
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
      <Choice label="A live window moves" value={kind} options={REFRESHED} onChange={choose} />
      {refresh !== null && 'everyUs' in refresh && (
        <DurationLine
          label="Every"
          value={refresh.everyUs}
          onChange={(us) => us >= SECOND && onRefresh({ everyUs: us })}
        />
      )}
      {kind === 'tag' && (
        <TagChoice
          label="Trigger tag"
          value={refresh !== null && 'tag' in refresh ? refresh.tag : null}
          none="choose one"
          onChange={(tag) => onRefresh(tag === null ? null : { tag })}
        />
      )}
    </Box>
  );
}
