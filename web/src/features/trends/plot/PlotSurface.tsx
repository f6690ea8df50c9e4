/** Takes pointer and wheel over the plot: cursor, drag to zoom, shift-drag or middle button to pan; on a touch
 * screen one finger pans and two of them stretch. */
import { Box } from '@mui/material';
import {
  useRef,
  useState,
  type PointerEvent,
  type ReactElement,
  type ReactNode,
  type WheelEvent,
} from 'react';
import { GUTTER_LEFT } from '../../../chart';
import type { Span } from '../../../domain/time';
import { pinchOf, placesOf, stretched, zoomOf } from '../model/pinch';
import { useTrendStore, useTrendValue } from '../store/context';
import { line, Marks, type Mark, type MarksProps } from './Marks';

export interface PlotSurfaceProps {
  span: Span;
  width: number;
  /** Room at the right of the plot, CSS pixels. */
  gutterRight: number;
  /** The cursors that bound a range. */
  marks: readonly Mark[];
  notes: MarksProps['notes'];
  accent: string;
  ink: string;
  /** A drag zooms both axes. */
  isArea: boolean;
  /** A stretch was dragged over; where that zooms both axes, with the part of the plot, CSS pixels from its top. */
  onZoom: (span: Span, area: { top: number; bottom: number } | null) => void;
  onPan: (span: Span) => void;
  onWheel: (factor: number, aroundUs: number) => void;
  /** A cursor is put somewhere, by its flag or where one clicks while it is being placed. */
  onMark: (name: Mark['name'], atUs: number) => void;
  /** The view may be changed. */
  isFree: boolean;
  children: ReactNode;
}

interface Drag {
  kind: 'zoom' | 'pan';
  fromX: number;
  toX: number;
  fromY: number;
  toY: number;
  span: Span;
}

const LEAST_DRAG_PX = 4;
/** A drag that is lower zooms time alone. */
const LEAST_AREA_PX = 12;
/** A finger that moves no further has tapped; where the cursor is already, it is put away. */
const TAP_PX = 10;

export function PlotSurface(props: PlotSurfaceProps): ReactElement {
  const { span, width, gutterRight } = props;
  const { values, actions } = useTrendStore();
  const onCursor = actions.setCursor;
  const host = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const fingers = useRef(new Map<number, number>());
  /** The moments under two fingers when the second one came down. */
  const pinched = useRef<Span | null>(null);
  const plotWidth = Math.max(width - GUTTER_LEFT - gutterRight, 1);
  const timeAt = (px: number, over: Span = span): number =>
    over.startUs + ((px - GUTTER_LEFT) / plotWidth) * (over.endUs - over.startUs);
  const clamp = (px: number): number => Math.min(Math.max(px, GUTTER_LEFT), GUTTER_LEFT + plotWidth);
  const pixel = (event: { clientX: number }): number =>
    clamp(event.clientX - (host.current?.getBoundingClientRect().left ?? 0));

  const row = (event: { clientY: number }): number =>
    event.clientY - (host.current?.getBoundingClientRect().top ?? 0);

  const placeOf = (us: number): number =>
    GUTTER_LEFT + ((us - span.startUs) / (span.endUs - span.startUs)) * plotWidth;

  const down = (event: PointerEvent): void => {
    if (event.button > 1) return;
    const px = pixel(event);
    if (event.pointerType === 'touch') {
      fingers.current.set(event.pointerId, px);
      pinched.current = pinchOf(fingers.current, timeAt);
    }
    const kind = event.shiftKey || event.button === 1 || event.pointerType === 'touch' ? 'pan' : 'zoom';
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ kind, fromX: px, toX: px, fromY: row(event), toY: row(event), span });
  };
  const move = (event: PointerEvent): void => {
    const px = pixel(event);
    // A finger moves the window; the cursor stays where it was put by a tap.
    if (event.pointerType !== 'touch') onCursor(timeAt(px));
    if (fingers.current.has(event.pointerId)) fingers.current.set(event.pointerId, px);
    if (pinched.current !== null) {
      const [left, right] = placesOf(fingers.current);
      props.onPan(
        stretched(pinched.current, (left - GUTTER_LEFT) / plotWidth, (right - GUTTER_LEFT) / plotWidth),
      );
      return;
    }
    if (drag === null) return;
    setDrag({ ...drag, toX: px, toY: row(event) });
    const still = event.pointerType === 'touch' && Math.abs(px - drag.fromX) <= TAP_PX;
    if (drag.kind === 'pan' && !still) {
      const by = timeAt(drag.fromX, drag.span) - timeAt(px, drag.span);
      props.onPan({ startUs: drag.span.startUs + by, endUs: drag.span.endUs + by });
    }
  };
  const lift = (event: PointerEvent): void => {
    fingers.current.delete(event.pointerId);
    if (fingers.current.size < 2) pinched.current = null;
  };
  /** A click, or a tap: it puts the cursor that is being placed; a finger's puts the reading one. */
  const click = (px: number, touched: boolean): void => {
    const { cursorUs, placing } = values.getState();
    if (placing !== null) props.onMark(placing, timeAt(px));
    if (placing !== null || !touched) return;
    const there = cursorUs !== null && Math.abs(placeOf(cursorUs) - px) <= 2 * TAP_PX;
    onCursor(there ? null : timeAt(px));
  };
  const up = (event: PointerEvent): void => {
    const alone = pinched.current === null;
    lift(event);
    const touched = event.pointerType === 'touch';
    const most = touched ? TAP_PX : LEAST_DRAG_PX - 1;
    if (drag !== null && alone && event.button !== 1 && Math.abs(pixel(event) - drag.fromX) <= most) {
      click(drag.fromX, touched);
    }
    if (drag?.kind === 'zoom' && Math.abs(drag.toX - drag.fromX) >= LEAST_DRAG_PX) {
      const [a, b] = [timeAt(drag.fromX, drag.span), timeAt(drag.toX, drag.span)];
      props.onZoom({ startUs: Math.min(a, b), endUs: Math.max(a, b) }, areaOf(drag, props.isArea));
    }
    setDrag(null);
  };
  const wheel = (event: WheelEvent): void => {
    props.onWheel(zoomOf(event), timeAt(pixel(event)));
  };

  return (
    <Box
      ref={host}
      data-testid="plot"
      sx={{ position: 'relative', cursor: 'crosshair', touchAction: 'pan-y', userSelect: 'none' }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={(event) => {
        lift(event);
        setDrag(null);
      }}
      // A finger that is lifted leaves, too; what it has tapped stays.
      onPointerLeave={(event) => event.pointerType !== 'touch' && drag === null && onCursor(null)}
      onWheel={wheel}
    >
      {props.children}
      <Cursor ink={props.ink} placeOf={placeOf} most={GUTTER_LEFT + plotWidth} />
      <Marks
        {...props}
        placeOf={placeOf}
        momentAt={(event) => timeAt(pixel(event))}
        least={GUTTER_LEFT}
        most={GUTTER_LEFT + plotWidth}
        onMove={props.isFree ? props.onMark : null}
      />
      {drag?.kind === 'zoom' && (
        <Box
          sx={{ ...line, left: Math.min(drag.fromX, drag.toX), bgcolor: props.accent, opacity: 0.18 }}
          style={{ width: Math.abs(drag.toX - drag.fromX), ...rowsOf(areaOf(drag, props.isArea)) }}
        />
      )}
    </Box>
  );
}

type Area = { top: number; bottom: number } | null;

/** The rows that were dragged over, where they are more than a slip of the hand. */
function areaOf({ fromY, toY }: Drag, isArea: boolean): Area {
  if (!isArea || Math.abs(toY - fromY) < LEAST_AREA_PX) return null;
  return { top: Math.min(fromY, toY), bottom: Math.max(fromY, toY) };
}

function rowsOf(area: Area): { top?: number; height?: number; bottom?: string } {
  return area === null ? {} : { top: area.top, height: area.bottom - area.top, bottom: 'auto' };
}

interface CursorProps {
  ink: string;
  placeOf: (us: number) => number;
  /** Right end of the plot, CSS pixels. */
  most: number;
}

/** It moves by itself: nothing else is drawn anew for it. */
function Cursor({ ink, placeOf, most }: CursorProps): ReactElement | null {
  const cursorUs = useTrendValue((all) => all.cursorUs);
  const at = cursorUs === null ? null : placeOf(cursorUs);
  if (at === null || at < GUTTER_LEFT || at > most) return null;
  return <Box sx={{ ...line, bgcolor: ink }} style={{ left: at }} data-testid="cursor-line" />;
}
