/** The choice of a window: typed, a length, by the plant's calendar, between two moments, or that of a run. */
import { Box, Button, Popover, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement, type ReactNode } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/app.json';
import { fill } from '../../domain/fill';
import { DAY, HOUR, lengthText, MINUTE, momentText, type Span } from '../../domain/time';
import { fixedWindow, lastOf, sameWindow, windowName, type WindowChoice } from '../../domain/windows';
import { runsByTextQuery } from '../../entities/runs';
import { typedWindowQuery } from '../../entities/windows';
import { errorText } from '../../platform/errors';
import { useSettled } from '../../platform/useSettled';
import { TextLine, Told } from '../../ui';
import { MomentField } from '../../ui/fields/MomentField';
import type { RailContents } from '../../ui/timerail';

export interface WindowPanelProps {
  anchor: HTMLElement;
  contents: RailContents;
  /** Where the window lies, or the last hour. */
  span: Span;
  zone: string;
  onClose: () => void;
}

const LENGTHS = [MINUTE, 10 * MINUTE, 30 * MINUTE, HOUR, 2 * HOUR, 8 * HOUR, DAY, 7 * DAY, 14 * DAY];
const NAMED: readonly WindowChoice[] = [
  { kind: 'unit', unit: 'shift', which: 'this' },
  { kind: 'unit', unit: 'shift', which: 'last' },
  { kind: 'unit', unit: 'day', which: 'this' },
  { kind: 'unit', unit: 'day', which: 'last' },
  { kind: 'unit', unit: 'week', which: 'this' },
  { kind: 'unit', unit: 'week', which: 'last' },
  { kind: 'weekday', day: 'monday' },
];

export function WindowPanel({ anchor, contents, span, zone, onClose }: WindowPanelProps): ReactElement {
  const choose = (window: WindowChoice | null): void => {
    contents.onWindow(window);
    onClose();
  };
  const now = contents.window;
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
      transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': wording.window, sx: { maxWidth: 620 } } }}
    >
      <Box sx={{ display: 'flex', flexWrap: 'wrap' }}>
        <Box sx={COLUMN}>
          <Typed span={span} onChoose={choose} />
          <Group name={wording.lengthUntilNow}>
            {LENGTHS.map((us) => (
              <Way
                key={us}
                name={lengthText(us)}
                chosen={now !== null && sameWindow(now, lastOf(us))}
                onClick={() => choose(lastOf(us))}
              />
            ))}
          </Group>
          <Group name={wording.plantCalendar}>
            {NAMED.map((window) => (
              <Way
                key={windowName(window)}
                name={capital(windowName(window))}
                chosen={now !== null && sameWindow(now, window)}
                onClick={() => choose(window)}
              />
            ))}
          </Group>
          {(contents.hasAll || contents.more.length > 0) && (
            <Group name={wording.recordedHistory}>
              {contents.hasAll && (
                <Way name={wording.allOfHistory} chosen={now === null} onClick={() => choose(null)} />
              )}
              {contents.more.map(({ name, run }) => (
                <Way
                  key={name}
                  name={name}
                  chosen={false}
                  onClick={() => {
                    run();
                    onClose();
                  }}
                />
              ))}
            </Group>
          )}
        </Box>
        <Box sx={COLUMN}>
          <Moments span={span} zone={zone} onChoose={choose} />
          <Runs zone={zone} onChoose={choose} />
        </Box>
      </Box>
    </Popover>
  );
}

const COLUMN = {
  width: 300,
  maxWidth: '100%',
  p: 2,
  display: 'grid',
  gap: 1.5,
  alignContent: 'start',
} as const;
const TYPED_MS = 200;

interface ChoosingProps {
  onChoose: (window: WindowChoice) => void;
}

/** A window in words; what they are understood as is said while they are typed. */
function Typed({ span, onChoose }: ChoosingProps & { span: Span }): ReactElement {
  const [text, setText] = useState('');
  // What a text leaves out is that of the window when the panel was opened.
  const [shown] = useState(span);
  const asked = useSettled(text, TYPED_MS);
  const { data, error, isFetching, isPlaceholderData } = useQuery(typedWindowQuery(asked, shown));
  const current = asked === text && !isFetching && !isPlaceholderData && text.trim() !== '';
  const problem = current && error !== null ? errorText(error) : undefined;
  const understood = current && error === null ? data : undefined;
  const queries = useQueryClient();
  // Who types and presses Enter at once means that text, though its meaning is still on its way. A refusal is said at
  // the field as soon as that is.
  const take = (): void => {
    if (text.trim() === '') return;
    void queries.query(typedWindowQuery(text, shown)).then(
      ({ window }) => onChoose(window),
      () => undefined,
    );
  };
  return (
    <Box
      component="form"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        take();
      }}
    >
      <TextLine
        label={wording.typeAWindow}
        autoFocus
        value={text}
        placeholder={wording.exampleOfMoments}
        onChange={setText}
        problem={problem}
        hint={understood?.text ?? wording.forInstanceThisShift8H}
      />
    </Box>
  );
}

function Group({ name, children }: { name: string; children: ReactNode }): ReactElement {
  return (
    <Box role="group" aria-label={name}>
      <Typography variant="caption" sx={{ color: 'text.secondary', display: 'block' }}>
        {name}
      </Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 0.5 }}>{children}</Box>
    </Box>
  );
}

interface WayProps {
  name: string;
  chosen: boolean;
  onClick: () => void;
}

function Way({ name, chosen, onClick }: WayProps): ReactElement {
  return (
    <Button
      size="small"
      aria-pressed={chosen}
      onClick={onClick}
      sx={{ minWidth: 0, px: 0.75, fontWeight: chosen ? 700 : 400 }}
    >
      {name}
    </Button>
  );
}

/** From one moment to another, by the plant's clock. */
function Moments({ span, zone, onChoose }: ChoosingProps & { span: Span; zone: string }): ReactElement {
  // The window when the panel was opened.
  const [first] = useState({ startUs: whole(span.startUs), endUs: whole(span.endUs) });
  const [from, setFrom] = useState<number | null>(first.startUs);
  const [to, setTo] = useState<number | null>(first.endUs);
  const backward = from !== null && to !== null && to <= from;
  return (
    <Box
      component="form"
      aria-label={wording.fromOneMomentToAnother}
      noValidate
      sx={{ display: 'grid', gap: 1 }}
      onSubmit={(event) => {
        event.preventDefault();
        if (from !== null && to !== null && !backward) onChoose(fixedWindow(from, to));
      }}
    >
      <MomentField label={wording.fromPlantTime} first={first.startUs} zone={zone} onChange={setFrom} />
      <MomentField
        label={common.toLabel}
        first={first.endUs}
        zone={zone}
        onChange={setTo}
        problem={backward ? wording.thisHasToBeAfterThe : undefined}
      />
      <Box>
        <Button size="small" type="submit" disabled={from === null || to === null || backward}>
          {common.show}
        </Button>
      </Box>
    </Box>
  );
}

const SECOND_US = 1_000_000;

function whole(us: number): number {
  return Math.round(us / SECOND_US) * SECOND_US;
}

/** The window of a run that is over. */
function Runs({ zone, onChoose }: ChoosingProps & { zone: string }): ReactElement {
  const [search, setSearch] = useState('');
  const { data: runs = [], error } = useQuery(runsByTextQuery(useSettled(search.trim(), TYPED_MS)));
  const over = runs.flatMap((run) =>
    run.end_us === null
      ? []
      : [{ uid: run.uid, name: run.name, startUs: Number(run.start_us), endUs: Number(run.end_us) }],
  );
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1.5, display: 'grid', gap: 1 }}>
      <TextLine
        label={wording.orARunFind}
        value={search}
        onChange={setSearch}
        placeholder={common.line3Lot}
      />
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      <Box
        component="ul"
        aria-label={common.runs}
        sx={{ listStyle: 'none', m: 0, p: 0, maxHeight: 150, overflowY: 'auto' }}
      >
        {over.map(({ uid, name, startUs, endUs }) => (
          <li key={uid}>
            <Button
              size="small"
              sx={{ display: 'block', textAlign: 'left', width: '100%' }}
              onClick={() => onChoose(fixedWindow(startUs, endUs))}
            >
              {name}
              <Typography
                component="span"
                variant="caption"
                sx={{ display: 'block', color: 'text.secondary' }}
              >
                {fill(common.momentToMoment, {
                  moment: momentText(startUs, zone, MINUTE),
                  moment2: momentText(endUs, zone, MINUTE),
                })}
              </Typography>
            </Button>
          </li>
        ))}
      </Box>
      {over.length === 0 && error === null && <Told>{wording.noRunHasEndedYet}</Told>}
    </Box>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
