/** The drawer beside the plot: the pens, or what was asked for. */
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { Boundary } from '../../../ui';
import type { TrendDrawerProps } from '../model/drawerProps';
import { PenCards } from './PenCards';

const DrawerPanels = lazy(async () => ({ default: (await import('./DrawerPanels')).DrawerPanels }));

export function TrendDrawer(props: TrendDrawerProps): ReactElement {
  const { panel, cards, state, actions } = props;
  const [edited, setEdited] = useState<string | null>(null);
  const [pointed, setPointed] = useState<string | null>(null);
  const open = panel !== 'pens' || cards.some((one) => one.trace.tag.uid === edited);
  if (open) {
    return (
      <Boundary key={panel} what="This panel">
        <Suspense fallback={null}>
          <DrawerPanels {...props} {...{ edited, setEdited, pointed, setPointed }} />
        </Suspense>
      </Boundary>
    );
  }
  return (
    <PenCards
      cards={cards}
      onSelect={props.onSelect}
      onHide={actions.toggleHidden}
      onRemove={actions.toggleTag}
      onEdit={setEdited}
      fixed={state.allow !== null}
    />
  );
}
