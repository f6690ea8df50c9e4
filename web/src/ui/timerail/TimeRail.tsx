/** The time rail: the window being looked at on a longer stretch of history, with coverage bars. */
import { ChevronLeft, ChevronRight } from '@mui/icons-material';
import { Box, Button, IconButton, MenuItem, Select, Typography } from '@mui/material';
import { useState, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react';
import {
  clockText,
  DAY,
  dayText,
  HOUR,
  lengthText,
  MINUTE,
  momentText,
  SECOND,
  type Span,
} from '../../domain/time';
import { useSize } from '../../platform/useSize';
import { niceTimeTicks } from '../../domain/ticks';

export interface CoverageBar {
  id: string;
  colour: string;
  /** Where there is usable data. */
  covered: readonly Span[];
}

/** A note at a moment, or a run over a stretch. */
export interface RailMark {
  id: string;
  kind: 'note' | 'run';
  startUs: number;
  endUs: number;
  text: string;
}

export interface TimeRailProps {
  window: Span;
  /** The longer stretch the rail shows. */
  stretch: Span;
  mode: 'live' | 'hold';
  zone: string;
  bars: readonly CoverageBar[];
  marks?: readonly RailMark[];
  onWindow: (window: Span) => void;
  onLive: () => void;
  onHold: () => void;
  onStep: (share: number) => void;
  onLength: (lengthUs: number) => void;
}

const LENGTHS = [MINUTE, 10 * MINUTE, 30 * MINUTE, HOUR, 2 * HOUR, 8 * HOUR, DAY, 7 * DAY, 14 * DAY];
type Grip = 'start' | 'end' | 'whole';

export function TimeRail(props: TimeRailProps): ReactElement {
  const { window, mode, zone, onStep } = props;
  const length = window.endUs - window.startUs;
  const choices = LENGTHS.includes(length) ? LENGTHS : [...LENGTHS, length].sort((a, b) => a - b);
  return (
    <Box
      component="section"
      aria-label="Time rail"
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: '1fr', md: '170px 1fr auto' },
        gap: { xs: 1, md: 2 },
        alignItems: 'center',
        px: 2,
        py: 1,
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <Box
        sx={{
          display: { xs: 'flex', md: 'block' },
          gap: 1,
          alignItems: 'baseline',
          whiteSpace: 'nowrap',
          overflow: 'hidden',
        }}
      >
        <Typography sx={{ fontSize: 13, fontWeight: 700 }}>{dayText(window.startUs, zone)}</Typography>
        <Typography sx={{ fontSize: 13 }} data-testid="window-text">
          {clockText(window.startUs, zone, SECOND)} – {clockText(window.endUs, zone, SECOND)}
        </Typography>
        <Typography sx={{ fontSize: 11, color: 'text.secondary' }}>
          {mode === 'live' ? `last ${lengthText(length)}` : lengthText(length)} · {zone}
        </Typography>
      </Box>
      <Track {...props} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <IconButton size="small" aria-label="A window back" onClick={() => onStep(-1)}>
          <ChevronLeft />
        </IconButton>
        <Select
          size="small"
          variant="standard"
          value={length}
          onChange={(event) => props.onLength(event.target.value)}
          inputProps={{ 'aria-label': 'Length of the window' }}
          sx={{ fontSize: 13, minWidth: 84 }}
        >
          {choices.map((us) => (
            <MenuItem key={us} value={us} dense>
              {lengthText(us)}
            </MenuItem>
          ))}
        </Select>
        <IconButton size="small" aria-label="A window forth" onClick={() => onStep(1)}>
          <ChevronRight />
        </IconButton>
        <Button
          size="small"
          variant={mode === 'live' ? 'contained' : 'text'}
          aria-pressed={mode === 'live'}
          onClick={props.onLive}
        >
          Live
        </Button>
        <Button
          size="small"
          variant={mode === 'hold' ? 'contained' : 'text'}
          aria-pressed={mode === 'hold'}
          onClick={props.onHold}
        >
          Hold
        </Button>
      </Box>
    </Box>
  );
}

function Track({ window, stretch, zone, bars, marks = [], onWindow }: TimeRailProps): ReactElement {
  const [host, setHost] = useState<HTMLElement | null>(null);
  const { width } = useSize(host);
  const [drag, setDrag] = useState<{ grip: Grip; fromX: number; from: Span } | null>(null);
  const perPixel = (stretch.endUs - stretch.startUs) / Math.max(width, 1);
  const x = (us: number): number => Math.min(Math.max((us - stretch.startUs) / perPixel, 0), width);

  const down = (grip: Grip) => (event: PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ grip, fromX: event.clientX, from: window });
  };
  const move = (event: PointerEvent): void => {
    if (drag === null) return;
    const by = (event.clientX - drag.fromX) * perPixel;
    onWindow(moved(drag.from, drag.grip, by));
  };
  const keys = (grip: Grip) => (event: KeyboardEvent) => {
    const sign = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (sign === 0) return;
    event.preventDefault();
    onWindow(moved(window, grip, sign * (window.endUs - window.startUs) * 0.1));
  };
  const handle = (grip: Grip): object => ({
    role: 'slider',
    tabIndex: 0,
    'aria-valuemin': Math.round(stretch.startUs / SECOND),
    'aria-valuemax': Math.round(stretch.endUs / SECOND),
    'aria-valuenow': Math.round((grip === 'end' ? window.endUs : window.startUs) / SECOND),
    'aria-valuetext': momentText(grip === 'end' ? window.endUs : window.startUs, zone),
    'aria-label': { start: 'Start of the window', end: 'End of the window', whole: 'The whole window' }[grip],
    onPointerDown: down(grip),
    onPointerMove: move,
    onPointerUp: () => setDrag(null),
    onKeyDown: keys(grip),
  });

  return (
    <Box
      ref={setHost}
      sx={{
        position: 'relative',
        height: 52,
        touchAction: 'none',
        display: { xs: 'none', md: 'block' },
      }}
      data-testid="rail"
    >
      {bars.map((bar, row) =>
        bar.covered.map((span) => (
          <Box
            key={`${bar.id}${span.startUs}`}
            sx={{ position: 'absolute', height: 3, bgcolor: bar.colour, opacity: 0.75 }}
            style={{
              left: x(span.startUs),
              width: Math.max(x(span.endUs) - x(span.startUs), 1),
              top: 4 + row * 4,
            }}
          />
        )),
      )}
      <Marks marks={marks} x={x} window={window} onWindow={onWindow} />
      {niceTimeTicks(stretch, width / 110, zone).map((us) => (
        <Typography
          key={us}
          sx={{
            position: 'absolute',
            bottom: 0,
            fontSize: 11,
            color: 'text.secondary',
            transform: 'translateX(-50%)',
            whiteSpace: 'nowrap',
          }}
          style={{ left: Math.min(Math.max(x(us), 30), width - 30) }}
        >
          {stretch.endUs - stretch.startUs > 2 * DAY ? dayText(us, zone) : clockText(us, zone, MINUTE)}
        </Typography>
      ))}
      <Box
        {...handle('whole')}
        sx={{
          position: 'absolute',
          top: 0,
          height: 36,
          bgcolor: 'primary.main',
          opacity: 0.16,
          cursor: 'grab',
          borderRadius: '2px',
        }}
        style={{ left: x(window.startUs), width: Math.max(x(window.endUs) - x(window.startUs), 3) }}
      />
      {(['start', 'end'] as const).map((grip) => (
        <Box
          key={grip}
          {...handle(grip)}
          sx={{
            position: 'absolute',
            top: 0,
            height: 36,
            width: 12,
            ml: '-6px',
            cursor: 'ew-resize',
            '&::after': {
              content: '""',
              position: 'absolute',
              left: 4,
              width: 3,
              top: 0,
              bottom: 0,
              bgcolor: 'primary.main',
            },
          }}
          style={{ left: x(grip === 'start' ? window.startUs : window.endUs) }}
        />
      ))}
    </Box>
  );
}

interface MarksProps extends Pick<TimeRailProps, 'window' | 'onWindow'> {
  marks: readonly RailMark[];
  x: (us: number) => number;
}

/** Notes as dots, runs as brackets; a click goes there. */
function Marks({ marks, x, window, onWindow }: MarksProps): ReactElement {
  return (
    <>
      {marks.map((mark) => (
        <Box
          key={mark.id}
          data-testid={`rail-${mark.kind}`}
          title={mark.text}
          onClick={() => onWindow(mark.kind === 'run' ? mark : around(window, mark.startUs))}
          sx={{
            position: 'absolute',
            cursor: 'pointer',
            zIndex: 1,
            ...(mark.kind === 'run'
              ? { top: 31, height: 5, borderTop: 2, borderLeft: 1, borderColor: 'text.secondary' }
              : { top: 26, height: 10, ml: '-4px', borderRadius: '50%', bgcolor: 'text.primary' }),
          }}
          style={{
            left: x(mark.startUs),
            width: mark.kind === 'run' ? Math.max(x(mark.endUs) - x(mark.startUs), 2) : 8,
          }}
        />
      ))}
    </>
  );
}

/** A window of the same length around a moment. */
function around(window: Span, atUs: number): Span {
  const half = (window.endUs - window.startUs) / 2;
  return { startUs: atUs - half, endUs: atUs + half };
}

function moved(from: Span, grip: Grip, by: number): Span {
  const startUs = from.startUs + (grip === 'end' ? 0 : by);
  const endUs = from.endUs + (grip === 'start' ? 0 : by);
  return startUs < endUs - SECOND / 1000 ? { startUs, endUs } : from;
}
