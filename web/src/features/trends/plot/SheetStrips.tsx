/** The strips of the page's sheet, joined with what the page knows. */
import { useQuery } from '@tanstack/react-query';
import { useMemo, type ReactElement } from 'react';
import type { ContactRow, Pen } from '../../../chart';
import { coarse } from '../../../domain/steps';
import { MINUTE, type Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import { editable, pensOf } from '../model/layout';
import { useSettled } from '../../../platform/useSettled';
import type { TrendState } from '../model/state';
import { chartInk } from '../model/strips';
import type { Mark } from './Marks';
import { Strips } from './Strips';
import type { TrendOn } from '../page/useTrendOn';
import type { Followed } from '../data/useTraces';
import { notesQuery } from '../../../entities/notes';

interface SheetStripsProps {
  state: TrendState;
  followed: Followed;
  span: Span;
  nowUs: number;
  size: { width: number; height: number };
  zone: string;
  tokens: Tokens;
  gutterRight: number;
  uids: readonly string[];
  pens: readonly Pen[];
  contacts: readonly ContactRow[];
  on: TrendOn;
}

/** The curves come first; notes when the window has come to rest. */
const NOTES_AFTER_MS = 700;

/** The strips with what they share; a view that is only looked at changes nothing but, maybe, its time. */
export function SheetStrips(props: SheetStripsProps): ReactElement {
  const { state, span, pens, contacts, on, uids, zone, tokens, gutterRight } = props;
  const strips = useMemo(() => editable(state.strips), [state.strips]);
  const shown = useMemo(() => pensOf(strips, uids), [strips, uids]);
  const { startUs, endUs } = stretchOfNotes(span);
  const around = useMemo(() => ({ startUs, endUs }), [startUs, endUs]);
  const { data: notes } = useQuery(notesQuery(useSettled(around, NOTES_AFTER_MS), ''));
  const { allow, display } = state;
  const ink = useMemo(() => chartInk(tokens, display), [tokens, display]);
  const free = allow === null;
  const timed = free || allow.includes('time');
  return (
    <Strips
      strips={strips}
      uids={shown}
      size={props.size}
      state={state}
      followed={props.followed}
      nowUs={props.nowUs}
      tokens={tokens}
      onStrip={on.onStrip}
      onEnds={on.onEnds}
      onHigher={on.onHigher}
      shared={{
        zone,
        tokens,
        gutterRight,
        onPlaced: on.onPlaced,
        scales: state.scales,
        large: state.large,
        display,
        ink,
        selected: state.selected,
        marks: marksOf(state),
        onMark: on.onMarkAt,
        isFree: free,
        notes: (notes ?? []).map((one) => ({ uid: one.uid, atUs: Number(one.start_us), text: one.text })),
        onScale: free ? on.onScale : null,
        onDropTag: free ? on.onDropTag : null,
      }}
      rail={{
        pens,
        contacts,
        span,
        onZoom: timed ? on.onZoom : nothing,
        onPan: timed ? on.onPan : nothing,
        onWheel: timed ? on.onWheel : nothing,
      }}
    />
  );
}

function nothing(): void {
  // A view that is only looked at keeps its window.
}

function marksOf(state: TrendState): Mark[] {
  return [
    ...(state.a === null ? [] : [{ name: 'A' as const, atUs: state.a }]),
    ...(state.b === null ? [] : [{ name: 'B' as const, atUs: state.b }]),
  ];
}

/** Notes are read for a stretch in steps, so that a live window does not ask at every frame. */
function stretchOfNotes(span: Span): Span {
  const step = Math.max(coarse((span.endUs - span.startUs) / 4), MINUTE);
  return {
    startUs: Math.max(Math.floor(span.startUs / step) * step, 0),
    endUs: Math.ceil(span.endUs / step) * step,
  };
}
