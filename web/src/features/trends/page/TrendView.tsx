import { FullscreenExit } from '@mui/icons-material';
import { Alert, Box, Button, IconButton, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import * as wording from 'texts/trends.json';
import { LARGE } from '../model/state';
import { fill } from '../../../domain/fill';
import { momentText, type Span } from '../../../domain/time';

export type TrendStatus = 'empty' | 'loading' | 'error' | 'ready';

/** What of the pens cannot be seen, and whose limits are not valid. */
export interface Unseen {
  outside: number;
  partly: number;
  stale: { name: string; sinceUs: number }[];
}

export interface TrendViewProps {
  head: ReactNode;
  status: TrendStatus;
  error: string;
  /** Set while something keeps the picture from being current. */
  notice: string;
  zone: string;
  span: Span;
  /** What is drawn. */
  strips: ReactNode;
  counts: { pens: number; contacts: number };
  /** Pens whose tags are not there any more. */
  gone: number;
  onTakeOff: () => void;
  /** Pens of which nothing, or not all, is to be seen. */
  unseen: Unseen;
  /** Inner size of the plot's place, CSS pixels. */
  size: { width: number; height: number };
  plotHost: (element: HTMLElement | null) => void;
  drawer: ReactNode;
  rail: ReactNode;
  /** The cursor's moment. */
  cursor: ReactNode;
  /** Somebody points at the trend, or the focus is in it. */
  onTouched: () => void;
  /** The pens lie below the plot. */
  isNarrow: boolean;
  /** For reading at a distance. */
  isLarge: boolean;
  /** The plot has the whole screen. */
  isAlone: boolean;
  /** Pens or a panel stand beside the plot. */
  hasDrawer: boolean;
  onLeave: () => void;
  figures: ReactNode;
  onFit: () => void;
}

type PlotProps = Omit<
  TrendViewProps,
  | 'plotHost'
  | 'drawer'
  | 'rail'
  | 'figures'
  | 'head'
  | 'onTouched'
  | 'isNarrow'
  | 'isLarge'
  | 'isAlone'
  | 'hasDrawer'
  | 'onLeave'
>;

const ONE = 'minmax(0, 1fr)';

/** The trend: head, plot, drawer, rail. Draws what it is given. */
export function TrendView({
  head,
  plotHost,
  drawer,
  rail,
  figures,
  onTouched,
  isNarrow,
  isLarge,
  isAlone,
  hasDrawer,
  onLeave,
  ...props
}: TrendViewProps): ReactElement {
  const isBeside = hasDrawer && !isAlone;
  return (
    <Box
      onPointerDownCapture={onTouched}
      onFocusCapture={onTouched}
      onPointerEnter={onTouched}
      sx={{
        display: 'grid',
        height: { md: '100%' },
        minHeight: 0,
        gridTemplateColumns:
          isNarrow || !isBeside ? ONE : { xs: ONE, md: `${ONE} ${isLarge ? 300 * LARGE : 300}px` },
        gridTemplateRows: { md: isNarrow && isBeside ? `${ONE} minmax(0, 32%)` : ONE },
        ...(isAlone && WHOLE),
      }}
    >
      <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, minWidth: 0 }}>
        {isAlone ? <LeaveButton onLeave={onLeave} /> : head}
        {props.notice !== '' && (
          <Alert
            severity="warning"
            variant="outlined"
            sx={{ typography: 'body2', mx: 2, mb: 1, py: 0 }}
            data-testid="notice"
          >
            {props.notice}
          </Alert>
        )}
        <GoneNote {...props} />
        <UnseenNote {...props} />
        <Box
          ref={plotHost}
          sx={{ flex: 1, minHeight: { xs: 360, md: 0 }, position: 'relative', overflow: 'hidden' }}
        >
          <Plot {...props} />
        </Box>
        {figures}
      </Box>
      {isBeside && (
        <Box
          component="aside"
          aria-label={wording.pensAndDetails}
          sx={{
            borderLeft: { md: isNarrow ? 0 : 1 },
            borderTop: { xs: 1, md: isNarrow ? 1 : 0 },
            borderColor: { xs: 'divider', md: 'divider' },
            bgcolor: 'background.paper',
            overflowY: 'auto',
            minHeight: 0,
            zoom: isLarge ? LARGE : 1,
            // The line between plot and drawer is the drawer's own.
            '& > form': { borderLeft: 0 },
          }}
        >
          {drawer}
        </Box>
      )}
      {rail}
    </Box>
  );
}

const WHOLE = {
  position: 'fixed',
  inset: 0,
  height: '100%',
  bgcolor: 'background.default',
  zIndex: 'modal',
} as const;

function LeaveButton({ onLeave }: { onLeave: () => void }): ReactElement {
  return (
    <IconButton
      size="small"
      aria-label={wording.leaveFullScreen}
      title={wording.leaveFullScreen}
      onClick={onLeave}
      sx={{ position: 'absolute', right: 4, top: 4, zIndex: 1, bgcolor: 'background.paper' }}
    >
      <FullscreenExit fontSize="small" />
    </IconButton>
  );
}

/** A saved view outlives the tags it names: what is gone is said, the rest is shown. */
function GoneNote({ gone, onTakeOff }: PlotProps): ReactElement | null {
  if (gone === 0) return null;
  return (
    <Box role="status" data-testid="gone" sx={NOTE}>
      {fill(wording.tagsOfThisViewAreNot, { gone })}
      <Button size="small" sx={{ py: 0 }} onClick={onTakeOff}>
        {wording.takeOff}
      </Button>
    </Box>
  );
}

const NOTE = {
  typography: 'caption',
  display: 'flex',
  alignItems: 'center',
  gap: 1,
  px: 2,
  color: 'text.secondary',
};

/** A scale that makes a pen invisible must be told, and one whose limits are not valid. */
function UnseenNote({ unseen, zone, onFit }: PlotProps): ReactElement | null {
  const { outside, partly, stale } = unseen;
  const words = [
    outside === 0 ? '' : fill(wording.outsidePensLieOutsideTheScale, { outside }),
    partly === 0 ? '' : fill(wording.partlyGoBeyondIt, { partly }),
  ].filter(Boolean);
  if (words.length + stale.length === 0) return null;
  return (
    <Box role="status" data-testid="unseen" sx={NOTE}>
      {words.length > 0 && (
        <>
          {words.join(', ')}.
          <Button size="small" sx={{ py: 0 }} onClick={onFit}>
            {wording.fit}
          </Button>
        </>
      )}
      {stale.map(({ name, sinceUs }) => (
        <span key={name}>
          {fill(wording.nameTheLimitsOfItsScale, {
            name,
            part:
              sinceUs === 0
                ? wording.itHasItsOwnRange
                : fill(wording.thoseBeforeMomentStay, { moment: momentText(sinceUs, zone) }),
          })}
        </span>
      ))}
    </Box>
  );
}

function Plot(props: PlotProps): ReactElement {
  const { status, size } = props;
  if (status === 'empty') return <Message text={wording.noPensYetAddOneFrom} />;
  if (status === 'error') return <Message text={props.error} alert />;
  if (size.width === 0) return <></>;
  return (
    <>
      {props.strips}
      {status === 'loading' && <Message text={wording.readingHistory} />}
      {props.cursor}
      <Summary {...props} />
    </>
  );
}

function Message({ text, alert = false }: { text: string; alert?: boolean }): ReactElement {
  return (
    <Typography
      role={alert ? 'alert' : 'status'}
      sx={{
        position: 'absolute',
        inset: 0,
        display: 'grid',
        placeItems: 'center',
        px: 4,
        textAlign: 'center',
        pointerEvents: 'none',
        color: alert ? 'error.main' : 'text.secondary',
      }}
    >
      {text}
    </Typography>
  );
}

/** What a screen reader gets in place of the picture. */
function Summary({ counts, span, zone }: PlotProps): ReactElement {
  return (
    <Typography
      component="p"
      sx={{ position: 'absolute', width: 1, height: '1px', overflow: 'hidden', clipPath: 'inset(50%)' }}
    >
      {fill(wording.trendOfPensAnalogPensAnd, {
        pens: counts.pens,
        contacts: counts.contacts,
        moment: momentText(span.startUs, zone),
        moment2: momentText(span.endUs, zone),
      })}
    </Typography>
  );
}
