/** The figures of the pens that are shown, between both cursors or over the window. */
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/trends.json';
import { SECOND, type Span } from '../../../domain/time';
import { lazyPart } from '../../../ui/lazyPart';
import type { Styled } from '../data/usePens';
import { rangeOf, type TrendState } from '../model/state';

export const FiguresTable = lazyPart(
  wording.theTableOfFigures,
  async () => (await import('../drawer/FiguresTable')).FiguresTable,
);

interface SheetFiguresProps {
  styled: readonly Styled[];
  state: TrendState;
  span: Span;
  isLive: boolean;
  zone: string;
  onClose: () => void;
}

export function SheetFigures({
  styled,
  state,
  span,
  isLive,
  zone,
  onClose,
}: SheetFiguresProps): ReactElement {
  const steady = useSteady(span, isLive);
  const cards = styled
    .filter((one) => one.trace.origin === 'tag')
    .map((one) => ({ ...one, archive: state.looks[one.trace.tag.uid]?.archive ?? '' }));
  return (
    <FiguresTable
      cards={cards}
      range={rangeOf(state, steady)}
      earlierUs={state.ghostUs}
      bounded={state.a !== null && state.b !== null}
      zone={zone}
      isLarge={state.large}
      onClose={onClose}
    />
  );
}

/** A live window in steps: figures of it are asked for now and then, not at every frame. */
function useSteady(span: Span, live: boolean): Span {
  const [steady, setSteady] = useState(span);
  const length = span.endUs - span.startUs;
  const step = live ? Math.max(length / 50, 2 * SECOND) : 1;
  const moved = Math.max(Math.abs(span.endUs - steady.endUs), Math.abs(span.startUs - steady.startUs));
  if (moved >= step) setSteady(span);
  return steady;
}
