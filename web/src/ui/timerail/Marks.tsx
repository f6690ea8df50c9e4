/** Notes, runs and gaps on the time rail. One stop of the Tab key leads to them, arrows go from one to the next, Enter
 * goes there. */
import { ButtonBase, Box } from '@mui/material';
import { useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import type { Span } from '../../domain/time';

export interface RailMark extends Span {
  id: string;
  kind: 'note' | 'run' | 'gap';
  text: string;
}

interface MarksProps {
  marks: readonly RailMark[];
  /** The place of a moment, CSS pixels. */
  x: (us: number) => number;
  window: Span;
  onWindow: (window: Span) => void;
}

const STEPS: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowRight: 1, Home: -1e9, End: 1e9 };

export function Marks({ marks, x, window, onWindow }: MarksProps): ReactElement | null {
  const host = useRef<HTMLDivElement>(null);
  const [reached, setReached] = useState('');
  if (marks.length === 0) return null;
  const inOrder = [...marks].sort((a, b) => a.startUs - b.startUs);
  const stop = inOrder.some(({ id }) => id === reached) ? reached : inOrder[0]?.id;
  const onKey = (event: KeyboardEvent): void => {
    const step = STEPS[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const at = inOrder.findIndex(({ id }) => id === stop) + step;
    const next = inOrder[Math.min(Math.max(at, 0), inOrder.length - 1)];
    if (next === undefined) return;
    setReached(next.id);
    host.current?.querySelector<HTMLElement>(`[data-mark="${CSS.escape(next.id)}"]`)?.focus();
  };
  return (
    <Box ref={host} role="toolbar" aria-label={wording.marksOnTheTimeRail} onKeyDown={onKey}>
      {inOrder.map((mark) => (
        <ButtonBase
          key={mark.id}
          data-mark={mark.id}
          data-testid={`rail-${mark.kind}`}
          title={mark.text}
          aria-label={mark.text}
          tabIndex={mark.id === stop ? 0 : -1}
          onFocus={() => setReached(mark.id)}
          onClick={() => onWindow(mark.kind === 'note' ? around(window, mark.startUs) : mark)}
          sx={SHAPES[mark.kind]}
          style={{
            left: x(mark.startUs),
            ...(mark.kind === 'note' ? {} : { width: Math.max(x(mark.endUs) - x(mark.startUs), 2) }),
          }}
        />
      ))}
    </Box>
  );
}

const PLACED = {
  position: 'absolute',
  zIndex: 1,
  '&.Mui-focusVisible': { outline: 2, outlineColor: 'primary.main', outlineOffset: 1 },
} as const;
const SHAPES = {
  note: {
    ...PLACED,
    top: 26,
    height: 10,
    width: 8,
    ml: '-4px',
    borderRadius: '50%',
    bgcolor: 'text.primary',
  },
  run: {
    ...PLACED,
    top: 31,
    height: 5,
    borderRadius: 0,
    borderTop: 2,
    borderLeft: 1,
    borderColor: 'text.secondary',
    borderStyle: 'solid',
    borderRight: 0,
    borderBottom: 0,
  },
  gap: { ...PLACED, top: 0, height: 3, borderRadius: 0, bgcolor: 'text.disabled' },
} as const;

/** A window of the same length around a moment. */
function around(window: Span, atUs: number): Span {
  const half = (window.endUs - window.startUs) / 2;
  return { startUs: atUs - half, endUs: atUs + half };
}
