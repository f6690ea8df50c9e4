/** The drawer beside the plot: the pens, or what was asked for. */
import { useDeferredValue, useEffect, useState, type ReactElement } from 'react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { keepTags } from '../../../entities/tags';
import { errorText } from '../../../platform/errors';
import { say } from '../../../ui/toasts';
import type { Tag } from '../../../platform/client';
import { Boundary } from '../../../ui';
import { lazyPart } from '../../../ui/lazyPart';
import { useCards } from '../data/useCards';
import type { TrendDrawerProps } from '../model/drawerProps';
import { useTrendValue } from '../store/context';
import { PenCards } from './PenCards';
import { useCan } from '../../../entities/plant';

export const DrawerPanels = lazyPart(
  common.thisPanel,
  async () => (await import('./DrawerPanels')).DrawerPanels,
);

const WritePanel = lazyPart(common.thisPanel, async () => (await import('./WritePanel')).WritePanel);

export function TrendDrawer({ shown, cards: cardsRef, ...props }: TrendDrawerProps): ReactElement {
  const { panel, state, actions } = props;
  const can = useCan();
  // The line of the cursor moves at once, the values beside it when there is time.
  const cursorUs = useDeferredValue(useTrendValue((values) => values.cursorUs));
  const cards = useCards({ ...shown, cursorUs, selected: state.selected, looks: state.looks });
  useEffect(() => {
    cardsRef.current = cards;
  });
  const [edited, setEdited] = useState<string | null>(null);
  const [pointed, setPointed] = useState<string | null>(null);
  const queries = useQueryClient();
  const keeping = useMutation({
    mutationFn: ({ uid }: Tag) => keepTags([uid]),
    onSuccess: (_, { name }) => {
      say(fill(wording.nameIsKept, { name }));
      return queries.invalidateQueries({ queryKey: ['tags'] });
    },
    onError: (error) => say(errorText(error)),
  });
  const [written, setWritten] = useState<Tag | null>(null);
  if (written !== null) {
    return (
      <Boundary key="write" what={common.thisPanel}>
        <WritePanel tag={written} cards={cards} onClose={() => setWritten(null)} />
      </Boundary>
    );
  }
  const open = panel !== 'pens' || cards.some((one) => one.trace.tag.uid === edited);
  if (open) {
    return (
      <Boundary key={panel} what={common.thisPanel}>
        <DrawerPanels
          {...props}
          cards={cards}
          cursorUs={cursorUs}
          edited={edited}
          setEdited={setEdited}
          pointed={pointed}
          setPointed={setPointed}
        />
      </Boundary>
    );
  }
  return (
    <PenCards
      cards={cards}
      onSelect={props.onSelect}
      onHide={actions.toggleHidden}
      onRemove={props.onRemove}
      onRemoveAll={props.onRemoveAll}
      onEdit={setEdited}
      onWrite={can('write_values') ? setWritten : null}
      onKeep={can('configure') ? (tag) => keeping.mutate(tag) : null}
      zone={props.zone}
      fixed={state.allow !== null}
      parts={state.display.card}
    />
  );
}
