/** What the drawer beside the plot is given. */
import type { Span } from '../../shared/lib/time';
import type { Tokens } from '../../shared/lib/tokens';
import type { PenCard } from './PenCards';
import type { TrendState } from './state';
import type { TrendActions } from './useTrendState';

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
