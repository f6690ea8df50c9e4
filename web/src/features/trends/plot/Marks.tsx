/** Cursors A and B with the stretch between them, and the notes. A cursor is moved by its flag. */
import { Box } from '@mui/material';
import { useState, type PointerEvent, type ReactElement } from 'react';

export interface Mark {
  name: 'A' | 'B';
  atUs: number;
}

export interface MarksProps {
  marks: readonly Mark[];
  notes: readonly { uid: string; atUs: number; text: string }[];
  accent: string;
  ink: string;
  placeOf: (us: number) => number;
  /** The moment at a place of the pointer. */
  momentAt: (event: { clientX: number }) => number;
  /** Ends of the plot, CSS pixels. */
  least: number;
  most: number;
  /** null: the view is only looked at. */
  onMove: ((name: Mark['name'], atUs: number) => void) | null;
}

export function Marks(props: MarksProps): ReactElement {
  const { accent, ink, placeOf, least, most, momentAt, onMove } = props;
  /** The cursor that is being moved; what follows it is told where it is let go. */
  const [moved, setMoved] = useState<Mark | null>(null);
  const marks = props.marks.map((mark) => (mark.name === moved?.name ? moved : mark));
  const drop = (): void => {
    if (moved !== null) onMove?.(moved.name, moved.atUs);
    setMoved(null);
  };
  return (
    <>
      {marks.length === 2 && (
        <Band
          from={placeOf(marks[0]?.atUs ?? 0)}
          to={placeOf(marks[1]?.atUs ?? 0)}
          least={least}
          most={most}
          colour={accent}
        />
      )}
      {marks.map((mark) => {
        const left = placeOf(mark.atUs);
        return left < least || left > most ? null : (
          <Box
            key={mark.name}
            data-testid={`mark-${mark.name}`}
            sx={{ ...line, left, width: '2px', bgcolor: accent }}
          >
            <Box
              component="span"
              sx={{ ...flag, bgcolor: accent, ...(onMove === null ? {} : grip) }}
              onPointerDown={(event: PointerEvent) => {
                if (onMove === null) return;
                // The plot would take it for the begin of a zoom.
                event.stopPropagation();
                event.currentTarget.setPointerCapture(event.pointerId);
                setMoved(mark);
              }}
              onPointerMove={(event: PointerEvent) =>
                moved !== null && setMoved({ ...mark, atUs: momentAt(event) })
              }
              onPointerUp={drop}
              onPointerCancel={() => setMoved(null)}
            >
              {mark.name}
            </Box>
          </Box>
        );
      })}
      {props.notes.map((note) => {
        const left = placeOf(note.atUs);
        return left < least || left > most ? null : (
          <Box
            key={note.uid}
            data-testid="note-mark"
            title={note.text}
            sx={{ ...pinned, left: left - 6, borderColor: ink }}
          />
        );
      })}
    </>
  );
}

export const line = {
  position: 'absolute',
  top: 0,
  bottom: 0,
  width: '1px',
  pointerEvents: 'none',
} as const;
const flag = {
  typography: 'caption',
  position: 'absolute',
  top: 0,
  left: 0,
  px: '5px',
  fontWeight: 700,
  lineHeight: '16px',
  color: 'background.paper',
} as const;
const grip = {
  pointerEvents: 'auto',
  cursor: 'ew-resize',
  touchAction: 'none',
  // A finger needs more room than the letter has.
  '@media (hover: none)': { px: '16px', lineHeight: '44px' },
} as const;
const pinned = {
  position: 'absolute',
  bottom: 44,
  width: 12,
  height: 12,
  borderRadius: '50% 50% 50% 0',
  transform: 'rotate(-45deg)',
  border: 1.5,
  bgcolor: 'background.paper',
} as const;

interface BandProps {
  from: number;
  to: number;
  least: number;
  most: number;
  colour: string;
}

/** The stretch between both cursors. */
function Band({ from, to, least, most, colour }: BandProps): ReactElement | null {
  const left = Math.max(Math.min(from, to), least);
  const right = Math.min(Math.max(from, to), most);
  if (right <= left) return null;
  return <Box sx={{ ...line, left, bgcolor: colour, opacity: 0.08 }} style={{ width: right - left }} />;
}
