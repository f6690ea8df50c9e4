/** What of a trend is drawn: its pens over its window, with the same pens earlier and guide lines. */
import { useMemo } from 'react';
import { GUTTER_LEFT, type Pen } from '../../../chart';
import type { Tokens } from '../../../ui/tokens';
import type { Trace } from '../model/model';
import { gutterFor } from '../model/pageTexts';
import type { TrendState } from '../model/state';
import type { Curves } from './useCurves';
import { useGhosts } from './useGhosts';
import type { PlacedWindow } from './usePlacedWindow';
import { usePens, type Pens, type Styled } from './usePens';
import { useTraces, type Followed } from './useTraces';

export interface Drawn {
  /** CSS pixels. */
  plotWidth: number;
  gutterRight: number;
  known: readonly Trace[];
  curves: Curves;
  drawn: Pens;
  all: readonly Pen[];
  /** The pens that are not hidden. */
  shownPens: readonly Styled[];
}

/** `width` of the place of the plot, CSS pixels. */
export function useDrawn(
  state: TrendState,
  followed: Followed,
  { span, isKnown }: PlacedWindow,
  width: number,
  tokens: Tokens,
): Drawn {
  const { uids } = followed;
  const gutterRight = useMemo(() => gutterFor(state.looks, uids), [state.looks, uids]);
  const plotWidth = Math.max(width - GUTTER_LEFT - gutterRight, 0);
  // Until the server has said where the window lies nothing is asked for.
  const { known, others, curves } = useTraces(followed, state.window, span, isKnown ? plotWidth : 0);
  const drawn = usePens({ known, others, state, span, tokens });
  const { pens, guides, styled } = drawn;
  const ghosts = useGhosts(pens, state.made, span, plotWidth, state.ghostUs);
  const all = useMemo(() => [...ghosts, ...guides, ...pens], [ghosts, guides, pens]);
  const shownPens = useMemo(() => styled.filter((one) => !one.hidden), [styled]);
  return { plotWidth, gutterRight, known, curves, drawn, all, shownPens };
}
