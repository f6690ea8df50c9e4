/** What the head of a trend shows and does. */
import type { Span } from '../../../domain/time';
import type { Allowed, Refresh, Scales } from './state';

/** What the head does; the same functions at each render, so that it is drawn only when it shows something
 * else. */
export type HeadActions = Readonly<{
  onAdd: () => void;
  onScales: () => void;
  onFigures: () => void;
  /** A cursor is to be put where one clicks next, or is taken away. */
  onPlace: (name: 'A' | 'B') => void;
  onStrips: () => void;
  onSheets: () => void;
  onNotes: () => void;
  onUndo: () => void;
  onKeys: () => void;
  /** The plot alone on the screen, and back. */
  onWhole: () => void;
  onSpan: (span: Span) => void;
  onGhost: (us: number) => void;
  onFirst: () => void;
  onLast: () => void;
  /** Tags of other equipment, by those whose place they take; null where it has none. */
  onSisters: (equipment: string, pairs: readonly (readonly [string, string | null])[]) => void;
  onRefresh: (refresh: Refresh | null) => void;
  onPrint: () => Promise<void>;
  onPicture: (kind: 'png' | 'svg') => Promise<void>;
  /** The window that is shown, and the stretch that a file is of. */
  spanNow: () => Span;
  rangeNow: () => Span;
}>;

export interface HeadProps {
  title: string;
  /** The equipment that all pens belong to, or nothing. */
  equipment: string;
  /** What other equipment has to have for the same trend: tags of pens, scales and guide lines. */
  sisterTags: readonly string[];
  /** It is one of several on the page, and not its heading. */
  isPart: boolean;
  /** What is not plain to see, in words. */
  beside: string;
  scales: Scales;
  canUndo: boolean;
  figuresOpen: boolean;
  /** The cursors that are there, and the one that is being placed. */
  cursors: readonly ('A' | 'B')[];
  placing: 'A' | 'B' | null;
  zone: string;
  ghostUs: number;
  refresh: Refresh | null;
  uids: readonly string[];
  /** tag:archive, where one is chosen. */
  archives: readonly string[];
  plotWidth: number;
  allow: readonly Allowed[] | null;
  on: HeadActions;
}
