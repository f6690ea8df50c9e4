/** The axis as a handle: the wheel stretches the scale that it shows, dragging shifts it. */
import { Box } from '@mui/material';
import { useRef, type PointerEvent, type ReactElement, type WheelEvent } from 'react';
import * as wording from 'texts/trends.json';
import type { Pen } from '../../../chart';
import { shiftedScale, stretchedScale } from '../model/scales';

interface ScaleGripProps {
  pen: Pen;
  /** CSS pixels. */
  top: number;
  width: number;
  height: number;
  onScale: (uid: string, low: number, high: number) => void;
}

/** By keys the same is done in the pen's panel. */
export function ScaleGrip({ pen, top, width, height, onScale }: ScaleGripProps): ReactElement {
  const from = useRef<{ y: number; low: number; high: number } | null>(null);
  const tell = ({ low, high }: { low: number; high: number }): void => onScale(pen.id, low, high);
  const wheel = (event: WheelEvent): void => {
    const box = event.currentTarget.getBoundingClientRect();
    tell(stretchedScale(pen, event.deltaY > 0 ? 1.25 : 0.8, 1 - (event.clientY - box.top) / height));
  };
  const move = (event: PointerEvent): void => {
    if (from.current === null) return;
    const { y, low, high } = from.current;
    tell(shiftedScale({ ...pen, low, high }, (event.clientY - y) / height));
  };
  return (
    <Box
      data-testid="scale-grip"
      title={wording.wheelStretchTheScaleDragShift}
      sx={{ position: 'absolute', left: 0, cursor: 'ns-resize', touchAction: 'none' }}
      style={{ top, width: width - 8, height }}
      onWheel={wheel}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { y: event.clientY, low: pen.low, high: pen.high };
      }}
      onPointerMove={move}
      onPointerUp={() => {
        from.current = null;
      }}
    />
  );
}
