/** What the drawer beside the plot is given. */
import type { Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import type { PenCard } from '../drawer/PenCards';
import type { TrendState } from './state';
import type { TrendActions } from '../page/useTrendState';

export type DrawerPanel = 'pens' | 'picker' | 'keys' | 'sheets' | 'notes' | 'strips' | 'made';

export interface TrendDrawerProps {
  panel: DrawerPanel;
  setPanel: (panel: DrawerPanel) => void;
  cards: readonly PenCard[];
  uids: readonly string[];
  state: TrendState;
  actions: TrendActions;
  span: Span;
  cursorUs: number | null;
  zone: string;
  tokens: Tokens;
  onSelect: (uid: string) => void;
}
