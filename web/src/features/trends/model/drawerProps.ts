/** What the drawer beside the plot is given. */
import type { Tag } from '../../../platform/client';
import type { Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import type { RefObject } from 'react';
import type { PenCard } from '../drawer/PenCards';
import type { LiveSnapshot } from '../data/useLive';
import type { Styled } from '../data/usePens';
import type { TrendState } from './state';
import type { TrendActions } from '../store/trendStore';

export type DrawerPanel = 'pens' | 'picker' | 'keys' | 'sheets' | 'notes' | 'strips' | 'made';

export interface TrendDrawerProps {
  panel: DrawerPanel;
  setPanel: (panel: DrawerPanel) => void;
  /** What the cards are of: a moment behind the plot, where there is much to draw. */
  shown: { styled: readonly Styled[]; span: Span; live: LiveSnapshot; tags: readonly Tag[] };
  /** The cards that are drawn, for pictures of the trend. */
  cards: RefObject<readonly PenCard[]>;
  uids: readonly string[];
  state: TrendState;
  actions: TrendActions;
  span: Span;
  zone: string;
  tokens: Tokens;
  onSelect: (uid: string) => void;
  onRemove: (uid: string) => void;
  onRemoveAll: () => void;
}
