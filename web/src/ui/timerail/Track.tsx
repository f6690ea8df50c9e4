/** The stretch of the time rail: coverage, marks, and the window that is dragged on it. */
import { Box, Typography } from '@mui/material';
import { useState, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { dayOrClockText, momentText, SECOND, type Span } from '../../domain/time';
import { niceTimeTicks } from '../../domain/ticks';
import { useSize } from '../../platform/useSize';
import { Marks, type RailMark } from './Marks';
import type { CoverageBar } from './railStore';

export interface TrackProps {
  window: Span;
  /** The longer stretch the rail shows. */
  stretch: Span;
  zone: string;
  bars: readonly CoverageBar[];
  marks: readonly RailMark[];
  onMove: (window: Span) => void;
}

type Grip = 'start' | 'end' | 'whole';
const NAMES = { start: wording.startOfTheWindow, end: wording.endOfTheWindow, whole: wording.theWholeWindow };
const KEY_SHARE = 0.1;

export function Track({ window, stretch, zone, bars, marks, onMove }: TrackProps): ReactElement {
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
    if (drag !== null) onMove(moved(drag.from, drag.grip, (event.clientX - drag.fromX) * perPixel));
  };
  const keys = (grip: Grip) => (event: KeyboardEvent) => {
    const sign = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (sign === 0) return;
    event.preventDefault();
    onMove(moved(window, grip, sign * (window.endUs - window.startUs) * KEY_SHARE));
  };
  const handle = (grip: Grip): object => {
    const at = grip === 'end' ? window.endUs : window.startUs;
    return {
      role: 'slider',
      tabIndex: 0,
      'aria-valuemin': Math.round(stretch.startUs / SECOND),
      'aria-valuemax': Math.round(stretch.endUs / SECOND),
      'aria-valuenow': Math.round(at / SECOND),
      'aria-valuetext': momentText(at, zone),
      'aria-label': NAMES[grip],
      onPointerDown: down(grip),
      onPointerMove: move,
      onPointerUp: () => setDrag(null),
      onKeyDown: keys(grip),
    };
  };
  return (
    <Box
      ref={setHost}
      sx={{ position: 'relative', height: 52, touchAction: 'none', display: { xs: 'none', md: 'block' } }}
      data-testid="rail"
    >
      <Bars bars={bars} x={x} />
      <Marks marks={marks} x={x} window={window} onWindow={onMove} />
      <Ticks stretch={stretch} zone={zone} width={width} x={x} />
      <Box
        {...handle('whole')}
        sx={WHOLE}
        style={{ left: x(window.startUs), width: Math.max(x(window.endUs) - x(window.startUs), 3) }}
      />
      {(['start', 'end'] as const).map((grip) => (
        <Box
          key={grip}
          {...handle(grip)}
          sx={GRIP}
          style={{ left: x(grip === 'start' ? window.startUs : window.endUs) }}
        />
      ))}
    </Box>
  );
}

const WHOLE = {
  position: 'absolute',
  top: 0,
  height: 36,
  bgcolor: 'primary.main',
  opacity: 0.16,
  cursor: 'grab',
  borderRadius: '2px',
} as const;
const GRIP = {
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
} as const;

interface Placed {
  /** The place of a moment, CSS pixels. */
  x: (us: number) => number;
}

function Bars({ bars, x }: Placed & { bars: readonly CoverageBar[] }): ReactElement {
  return (
    <>
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
    </>
  );
}

const LABEL_PX = 110;

function Ticks({
  stretch,
  zone,
  width,
  x,
}: Placed & { stretch: Span; zone: string; width: number }): ReactElement {
  return (
    <>
      {niceTimeTicks(stretch, width / LABEL_PX, zone).map((us) => (
        <Typography
          key={us}
          variant="caption"
          sx={{
            position: 'absolute',
            bottom: 0,
            color: 'text.secondary',
            transform: 'translateX(-50%)',
            whiteSpace: 'nowrap',
          }}
          style={{ left: Math.min(Math.max(x(us), 30), width - 30) }}
        >
          {dayOrClockText(us, zone)}
        </Typography>
      ))}
    </>
  );
}

function moved(from: Span, grip: Grip, by: number): Span {
  const startUs = from.startUs + (grip === 'end' ? 0 : by);
  const endUs = from.endUs + (grip === 'start' ? 0 : by);
  return startUs < endUs - SECOND / 1000 ? { startUs, endUs } : from;
}
