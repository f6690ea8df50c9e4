import { useQuery } from '@tanstack/react-query';
import { memo, useDeferredValue, useMemo, type ReactElement } from 'react';
import type { Curve } from '../../../entities/curves';
import { TimeRail, type CoverageBar } from '../../../ui/timerail';
import { HOUR, MINUTE, type Span } from '../../../domain/time';
import { held, lengthOf, stepped, type TrendState } from '../model/state';
import type { Styled } from '../data/usePens';
import { useSettled } from '../data/useSettled';
import type { TrendActions } from '../page/useTrendState';
import { curvesQuery } from '../../../entities/curveQueries';
import { notesQuery } from '../../../entities/notes';
import { runsInQuery as runsQuery } from '../../../entities/runs';

export interface TrendRailProps {
  span: Span;
  nowUs: number;
  zone: string;
  state: TrendState;
  styled: readonly Styled[];
  actions: TrendActions;
  onMode: () => void;
}

const MOST_BARS = 7;
const COVERAGE_WIDTH = 200;
const AFTER_MS = 1000;

/** The time rail of a trend; the curves are drawn first, and it follows a moment later. */
export function TrendRail({ onMode, ...props }: TrendRailProps): ReactElement {
  const { span, nowUs, zone, state, styled, actions } = props;
  const calm = useDeferredValue(
    useMemo(
      () => ({ span, nowUs, zone, state, styled, actions }),
      [span, nowUs, zone, state, styled, actions],
    ),
  );
  return <Rail {...calm} onMode={onMode} />;
}

/** With the coverage of the first pens; the cursor does not concern it. */
const Rail = memo(function Rail({
  span,
  nowUs,
  zone,
  state,
  styled,
  actions,
  onMode,
}: TrendRailProps): ReactElement {
  const { startUs, endUs } = stretchOf(span, nowUs);
  const near = useMemo(() => ({ startUs, endUs }), [startUs, endUs]);
  // The curves come first: what lies around them is asked for when the window rests.
  const asked = useSettled(near, AFTER_MS);
  const shown = styled.filter((card) => card.trace.origin === 'tag').slice(0, MOST_BARS);
  const { data } = useQuery(
    curvesQuery({ tags: shown.map((card) => card.trace.tag.uid), ...asked, width: COVERAGE_WIDTH }),
  );
  const bars = shown.map((card): CoverageBar => {
    const curve = data?.find((c) => c.details.tag === card.trace.tag.uid);
    return {
      id: card.trace.tag.uid,
      colour: card.colour,
      covered: curve === undefined ? [] : covered(curve, asked),
    };
  });
  const { data: notes = [] } = useQuery(notesQuery(asked, ''));
  const { data: runs = [] } = useQuery(runsQuery(asked));
  const marks = [
    ...runs.map((run) => ({
      id: run.uid,
      kind: 'run' as const,
      startUs: Math.max(Number(run.start_us), near.startUs),
      endUs: Math.min(run.end_us === null ? nowUs : Number(run.end_us), near.endUs),
      text: run.name,
    })),
    ...notes.map((note) => ({
      id: note.uid,
      kind: 'note' as const,
      startUs: Number(note.start_us),
      endUs: Number(note.start_us),
      text: note.text,
    })),
  ].filter((mark) => mark.endUs >= near.startUs && mark.startUs <= near.endUs);
  return (
    <TimeRail
      marks={marks}
      window={span}
      stretch={near}
      mode={state.window.mode}
      zone={zone}
      bars={bars}
      onWindow={(to) => actions.moveWindow(() => held(to.startUs, to.endUs))}
      onLive={() => state.window.mode === 'hold' && onMode()}
      onHold={() => state.window.mode === 'live' && onMode()}
      onStep={(share) => actions.setWindow(stepped(span, share))}
      onLength={(lengthUs) => actions.setWindow(withLength(state, span, lengthUs))}
    />
  );
});

/** A stretch about six windows long, in steps, so that it does not move with every second. */
function stretchOf(span: Span, nowUs: number): Span {
  const length = Math.max((span.endUs - span.startUs) * 6, HOUR);
  const step = Math.max(length / 24, MINUTE);
  const latest = Math.ceil(nowUs / step) * step;
  const centred = Math.ceil((span.startUs + span.endUs + length) / 2 / step) * step;
  const endUs = Math.min(Math.max(centred, span.endUs), Math.max(latest, span.endUs));
  return { startUs: Math.min(endUs - length, span.startUs), endUs };
}

/** What is left of the stretch without the gaps. */
function covered(curve: Curve, stretch: Span): Span[] {
  const found: Span[] = [];
  let from = stretch.startUs;
  for (const gap of [...curve.details.gaps].sort((a, b) => Number(a.start_us) - Number(b.start_us))) {
    if (Number(gap.start_us) > from) found.push({ startUs: from, endUs: Number(gap.start_us) });
    from = Math.max(from, Number(gap.end_us));
  }
  if (from < stretch.endUs) found.push({ startUs: from, endUs: stretch.endUs });
  return found;
}

function withLength(state: TrendState, span: Span, lengthUs: number): TrendState['window'] {
  if (state.window.mode === 'live') return { mode: 'live', lengthUs };
  const grow = (lengthUs - lengthOf(state.window)) / 2;
  return held(span.startUs - grow, span.endUs + grow);
}
