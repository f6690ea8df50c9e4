/** All strips of a sheet in their rows; between two rows a handle changes how high they are. */
import { Box } from '@mui/material';
import { useMemo, useRef, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react';
import * as wording from 'texts/trends.json';
import { GUTTER_LEFT } from '../../../chart';
import type { Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import { boundShare, movedTo, rowsOf, spanOfStrip, type OwnWindow, type Strip } from '../model/layout';
import { goesOn, lastOf, fixedWindow, type WindowChoice } from '../../../domain/windows';
import { zoomed, type ScaleEnds, type TrendState } from '../model/state';
import { StripCell, type CellPlace, type CellShared } from './StripCell';
import { useGhosts } from '../data/useGhosts';
import { usePens, type Pens } from '../data/usePens';
import { useTraces, type Followed } from '../data/useTraces';
import type { Pen } from '../../../chart';

export interface StripsProps {
  strips: readonly Strip[];
  /** Uids on each strip. */
  uids: readonly (readonly string[])[];
  size: { width: number; height: number };
  shared: CellShared;
  /** What the strips show that follow the rail. */
  rail: {
    pens: readonly Pen[];
    contacts: Pens['contacts'];
    span: Span;
    onZoom: (span: Span, ends: readonly ScaleEnds[]) => void;
    onPan: (span: Span) => void;
    onWheel: (factor: number, aroundUs: number) => void;
  };
  state: TrendState;
  followed: Followed;
  nowUs: number;
  tokens: Tokens;
  onStrip: (place: number, change: Partial<Strip>) => void;
  /** The scales of pens, set by hand. */
  onEnds: (ends: readonly ScaleEnds[]) => void;
  /** A strip made higher or lower, from what it is by then. */
  onHigher: (place: number, by: number) => void;
}

const HANDLE = 7;

export function Strips(props: StripsProps): ReactElement {
  const { strips, uids, size, onStrip, onHigher } = props;
  const rows = useMemo(() => rowsOf(strips), [strips]);
  const shareOf = (row: readonly number[]): number => strips[row[0] ?? 0]?.share ?? 1;
  const shares = rows.reduce((sum, row) => sum + shareOf(row), 0);
  const room = size.height - HANDLE * (rows.length - 1);
  const heights = rows.map((row) => Math.floor((room * shareOf(row)) / shares));
  const topOf = (i: number): number => heights.slice(0, i).reduce((sum, one) => sum + one + HANDLE, 0);
  return (
    <>
      {rows.map((row, i) => {
        const height = heights[i] ?? 0;
        const width = Math.floor(size.width / row.length);
        const rowTop = topOf(i);
        const first = row[0] ?? 0;
        return (
          <Box key={first}>
            {i > 0 && (
              <Handle
                share={shareOf(rows[i - 1] ?? [])}
                pixels={room / shares}
                onShare={(share) => onStrip(rows[i - 1]?.[0] ?? 0, { share })}
                onHigher={(by) => onHigher(rows[i - 1]?.[0] ?? 0, by)}
              />
            )}
            <Box sx={{ display: 'flex' }}>
              {row.map((place, column) => {
                const strip = strips[place];
                if (strip === undefined) return null;
                const at = {
                  place,
                  strip,
                  uids: uids[place] ?? [],
                  left: column * width,
                  top: rowTop,
                  width,
                  height,
                };
                return strip.window === null ? (
                  <StripCell key={place} at={at} shared={props.shared} {...props.rail} />
                ) : (
                  <OwnCell key={place} at={at} {...props} window={strip.window} />
                );
              })}
            </Box>
          </Box>
        );
      })}
    </>
  );
}

type OwnCellProps = StripsProps & { at: CellPlace; window: NonNullable<Strip['window']> };

/** A strip with a window of its own: its curves are read for it. */
function OwnCell({ at, window, ...props }: OwnCellProps): ReactElement {
  const { state, followed, nowUs, tokens, shared, onStrip } = props;
  const sheet = props.rail.span;
  const { span, shown } = useOwnWindow(window, sheet, nowUs, goesOn(state.window));
  const mine = useMemo(
    () => ({ ...followed, uids: followed.uids.filter((uid) => at.uids.includes(uid)) }),
    [followed, at.uids],
  );
  const plotWidth = Math.max(at.width - GUTTER_LEFT - shared.gutterRight, 0);
  const { known, others } = useTraces(mine, shown, span, plotWidth);
  const numbers = useMemo(() => numbered(known, props.rail.pens), [known, props.rail.pens]);
  const drawn = usePens({ known: numbers, others, state, span, tokens });
  const ghosts = useGhosts(drawn.pens, state.made, span, plotWidth, state.ghostUs);
  const pens = useMemo(() => [...ghosts, ...drawn.guides, ...drawn.pens], [ghosts, drawn]);
  const take = (to: Span): void => onStrip(at.place, { window: movedTo(window, to, sheet) });
  return (
    <StripCell
      at={at}
      shared={shared}
      pens={pens}
      span={span}
      contacts={drawn.contacts}
      onZoom={(to, ends) => {
        take(to);
        props.onEnds(ends);
      }}
      onPan={take}
      onWheel={(factor, around) => take(zoomed(span, factor, around))}
    />
  );
}

/** Where a strip lies, and its window: one that goes on with the clock is the same one while it does. */
function useOwnWindow(
  own: OwnWindow,
  sheet: Span,
  nowUs: number,
  isSheetLive: boolean,
): { span: Span; shown: WindowChoice } {
  const { startUs, endUs } = spanOfStrip(own, sheet, nowUs);
  const span = useMemo(() => ({ startUs, endUs }), [startUs, endUs]);
  const { lengthUs, end } = own;
  const standing = end.kind === 'now' || (end.kind === 'before' && isSheetLive) ? null : span;
  const shown = useMemo(
    () => (standing === null ? lastOf(lengthUs) : fixedWindow(standing.startUs, standing.endUs)),
    [standing, lengthUs],
  );
  return { span, shown };
}

/** A pen has the same number, and so the same colour, in every strip. */
function numbered<T extends { tag: { uid: string }; number: number }>(
  known: readonly T[],
  pens: readonly Pen[],
): T[] {
  return known.map((trace) => {
    const same = pens.find((pen) => pen.id === trace.tag.uid);
    return same === undefined ? trace : { ...trace, number: same.number };
  });
}

interface HandleProps {
  /** Of the row above. */
  share: number;
  /** Height of a share of 1, CSS pixels. */
  pixels: number;
  onShare: (share: number) => void;
  onHigher: (by: number) => void;
}

const STEP = 0.1;

function Handle({ share, pixels, onShare, onHigher }: HandleProps): ReactElement {
  const from = useRef<{ y: number; share: number } | null>(null);
  const key = (event: KeyboardEvent): void => {
    const by = { ArrowUp: -STEP, ArrowDown: STEP }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    onHigher(by);
  };
  const move = (event: PointerEvent): void => {
    if (from.current === null) return;
    onShare(boundShare(from.current.share + (event.clientY - from.current.y) / Math.max(pixels, 1)));
  };
  return (
    <Box
      role="separator"
      aria-label={wording.heightOfTheStripAbove}
      aria-orientation="horizontal"
      aria-valuenow={Math.round(share * 100)}
      tabIndex={0}
      onKeyDown={key}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { y: event.clientY, share };
      }}
      onPointerMove={move}
      onPointerUp={() => {
        from.current = null;
      }}
      sx={{
        height: HANDLE,
        cursor: 'row-resize',
        touchAction: 'none',
        borderTop: 1,
        borderColor: 'divider',
        '&:hover, &:focus-visible': { bgcolor: 'action.selected' },
      }}
    />
  );
}
