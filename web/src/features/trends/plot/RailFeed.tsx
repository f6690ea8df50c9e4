/** Tells the shell's time rail which window the trend shows, and where its pens have data. */
import { useQuery } from '@tanstack/react-query';
import { memo, useEffect, useMemo } from 'react';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { momentText, lengthText, type Span } from '../../../domain/time';
import { fixedWindow, type WindowChoice } from '../../../domain/windows';
import { reasonText } from '../../../domain/reasons';
import { curvesQuery } from '../../../entities/curveQueries';
import type { Curve } from '../../../entities/curves';
import { useSettled } from '../../../platform/useSettled';
import {
  railStore,
  stretchOf,
  useRailContents,
  withoutGaps,
  type RailContents,
  type RailGap,
} from '../../../ui/timerail';
import type { Styled } from '../data/usePens';
import type { TrendStore } from '../store/trendStore';

interface RailFeedProps {
  /** A moment behind the plot, where there is much to draw. */
  shown: { span: Span; nowUs: number; styled: readonly Styled[]; window: WindowChoice };
  zone: string;
  store: TrendStore;
  on: { onMode: () => void; onFirst: () => void; onLast: () => void };
}

const MOST_BARS = 7;
const COVERAGE_WIDTH = 200;
const AFTER_MS = 1_000;

/** The cursor does not concern it; the curves come first, it is asked for when the window rests. */
export const RailFeed = memo(function RailFeed(props: RailFeedProps): null {
  const { zone, store, on } = props;
  useWindowAlong(store);
  const { span, nowUs, styled, window } = props.shown;
  const { startUs, endUs } = stretchOf(span, nowUs);
  const near = useMemo(() => ({ startUs, endUs }), [startUs, endUs]);
  const asked = useSettled(near, AFTER_MS);
  const pens = styled.filter((pen) => pen.trace.origin === 'tag').slice(0, MOST_BARS);
  const { data } = useQuery(
    curvesQuery({ tags: pens.map((pen) => pen.trace.tag.uid), ...asked, width: COVERAGE_WIDTH }),
  );
  const drawn = pens.map((pen) => `${pen.trace.tag.uid}${pen.colour}`).join();
  const { bars, gaps } = useMemo(
    () => ({
      bars: pens.map((pen) => {
        const curve = data?.find((one) => one.details.tag === pen.trace.tag.uid);
        const covered = curve === undefined ? [] : withoutGaps(gapsOf(curve), asked);
        return { id: pen.trace.tag.uid, colour: pen.colour, covered };
      }),
      gaps: shared(data ?? [], zone),
    }),
    // The pens are other objects whenever a sample comes in; what is drawn of them here is not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [drawn, data, asked, zone],
  );
  useRailContents(
    useMemo((): RailContents => {
      const { actions } = store;
      return {
        window,
        span,
        bars,
        gaps,
        hasAll: false,
        onWindow: (next) => next !== null && actions.setWindow(next),
        onMove: (to) => actions.moveWindow(() => fixedWindow(to.startUs, to.endUs)),
        onLive: on.onMode,
        more: [
          { name: wording.toTheFirstSample, run: on.onFirst },
          { name: wording.toTheLastSample, run: on.onLast },
        ],
      };
    }, [window, span, bars, gaps, store, on]),
    true,
  );
  return null;
});

/** What the rail shows follows the plot; the window that goes along to the next page is the present one at once. */
function useWindowAlong({ values }: TrendStore): void {
  useEffect(() => {
    const tell = (): void => {
      const { window } = values.getState().state;
      if (window !== railStore.getState().window) railStore.setState({ window });
    };
    tell();
    return values.subscribe(tell);
  }, [values]);
}

function gapsOf(curve: Curve): Span[] {
  return curve.details.gaps.map((gap) => ({ startUs: Number(gap.start_us), endUs: Number(gap.end_us) }));
}

const SAME_US = 5e6;

/** A source that is down takes many tags along: one mark for all of them. */
function shared(curves: readonly Curve[], zone: string): RailGap[] {
  const found = new Map<string, RailGap>();
  for (const { details } of curves) {
    for (const gap of details.gaps) {
      const [startUs, endUs] = [Number(gap.start_us), Number(gap.end_us)];
      const key = `${gap.reason}${Math.round(startUs / SAME_US)}`;
      const text = fill(wording.reasonFromMomentLength, {
        reason: reasonText(gap.reason),
        moment: momentText(startUs, zone),
        length: lengthText(endUs - startUs),
      });
      if (!found.has(key)) found.set(key, { startUs, endUs, text });
    }
  }
  return [...found.values()];
}
