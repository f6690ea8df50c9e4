/** The time rail: the window that a page shows, on a longer stretch of history, with what is known of it. */
import { ChevronLeft, ChevronRight, ExpandLess } from '@mui/icons-material';
import { Box, Button, ButtonBase, IconButton, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';
import { clockText, dayText, lengthText, SECOND, type Span } from '../../domain/time';
import { goesOn, windowName, type WindowChoice } from '../../domain/windows';
import type { RailMark } from './Marks';
import type { CoverageBar } from './railStore';
import { Track } from './Track';

export interface TimeRailProps {
  /** Null: all of history. */
  window: WindowChoice | null;
  /** Where it lies; null: not known yet. */
  span: Span | null;
  stretch: Span;
  zone: string;
  bars: readonly CoverageBar[];
  marks: readonly RailMark[];
  onMove: (span: Span) => void;
  onLive: () => void;
  /** Moves the window by a share of its length. */
  onStep: (share: number) => void;
  /** Opens the choice of windows at an element. */
  onChoose: (anchor: HTMLElement) => void;
  isChoosing: boolean;
}

export function TimeRail(props: TimeRailProps): ReactElement {
  const { window, span, stretch, zone, bars, marks, onMove } = props;
  return (
    <Box component="section" aria-label={wording.timeRail} sx={RAIL}>
      <WindowButton {...props} />
      {span === null ? (
        <Box />
      ) : (
        <Track stretch={stretch} zone={zone} bars={bars} marks={marks} onMove={onMove} window={span} />
      )}
      <Steps {...props} isLive={window !== null && goesOn(window)} />
    </Box>
  );
}

const RAIL = {
  display: 'grid',
  gridTemplateColumns: { xs: '1fr', md: '196px minmax(0, 1fr) auto' },
  gap: { xs: 1, md: 2 },
  alignItems: 'center',
  px: 2,
  py: 1,
  borderTop: 1,
  borderColor: 'divider',
  bgcolor: 'background.paper',
} as const;

/** The window in words; opens the choice of another one. */
function WindowButton({ window, span, zone, onChoose, isChoosing }: TimeRailProps): ReactElement {
  const name = window === null ? wording.allOfHistory : windowName(window);
  return (
    <ButtonBase
      aria-haspopup="dialog"
      aria-expanded={isChoosing}
      onClick={(event) => onChoose(event.currentTarget)}
      sx={{
        display: { xs: 'flex', md: 'block' },
        gap: 1,
        alignItems: 'baseline',
        justifyContent: 'flex-start',
        textAlign: 'left',
        whiteSpace: 'nowrap',
        overflow: 'hidden',
        borderRadius: 1,
        px: 0.5,
        mx: -0.5,
        '&:hover': { bgcolor: 'action.hover' },
      }}
    >
      <Typography component="span" variant="body2" sx={{ fontWeight: 700, display: 'block' }}>
        {span === null ? capital(name) : dayText(span.startUs, zone)}
        <ExpandLess
          fontSize="small"
          sx={{ verticalAlign: 'text-bottom', ml: 0.5, color: 'text.secondary' }}
        />
      </Typography>
      {span !== null && (
        <>
          <Typography component="span" variant="body2" sx={{ display: 'block' }} data-testid="window-text">
            {clockText(span.startUs, zone, SECOND)} – {clockText(span.endUs, zone, SECOND)}
          </Typography>
          <Typography component="span" variant="caption" sx={{ color: 'text.secondary', display: 'block' }}>
            {[name === '' ? lengthText(span.endUs - span.startUs) : name, ...zoneNote(zone)].join(' · ')}
          </Typography>
        </>
      )}
    </ButtonBase>
  );
}

/** The plant's zone is said where the clock of this machine shows another time. */
function zoneNote(zone: string): string[] {
  return Intl.DateTimeFormat().resolvedOptions().timeZone === zone ? [] : [zone];
}

function Steps({ isLive, window, span, onStep, onLive }: TimeRailProps & { isLive: boolean }): ReactElement {
  const still = span === null;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
      <IconButton
        size="small"
        aria-label={wording.previousWindow}
        disabled={still}
        onClick={() => onStep(-1)}
      >
        <ChevronLeft />
      </IconButton>
      <IconButton size="small" aria-label={wording.nextWindow} disabled={still} onClick={() => onStep(1)}>
        <ChevronRight />
      </IconButton>
      <Button
        size="small"
        variant={isLive ? 'contained' : 'text'}
        aria-pressed={isLive}
        disabled={window === null}
        onClick={() => !isLive && onLive()}
      >
        {common.live}
      </Button>
      <Button
        size="small"
        variant={isLive || window === null ? 'text' : 'contained'}
        aria-pressed={!isLive && window !== null}
        disabled={window === null}
        onClick={() => isLive && onLive()}
      >
        {common.hold}
      </Button>
    </Box>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
