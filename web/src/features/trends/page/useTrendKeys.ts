import type { Span } from '../../../domain/time';
import { useKeys } from '../model/keys';
import { stepped, zoomed, type Allowed } from '../model/state';
import type { TrendActions } from './useTrendState';

export interface TrendKeyParts {
  span: Span;
  cursorUs: number | null;
  /** Uids of the numbered pens, in order. */
  penIds: readonly string[];
  actions: TrendActions;
  /** A view to look at only: what may be done beside looking. */
  allow: readonly Allowed[] | null;
  on: Readonly<{
    onMode: () => void;
    onFit: () => void;
    onMark: (name: 'a' | 'b') => void;
    onFigures: () => void;
    onSelect: (uid: string) => void;
    onAdd: () => void;
    onKeys: () => void;
    onClose: () => void;
  }>;
  onCursor: (atUs: number | null) => void;
  onTheme: () => void;
}

const CURSOR_STEPS = 100;

/** The keys of a trend, bound to what they do. */
export function useTrendKeys(parts: TrendKeyParts): void {
  const { span, cursorUs, actions, on, allow } = parts;
  const middle = (span.startUs + span.endUs) / 2;
  const at = cursorUs ?? middle;
  const moveCursor = (sign: number) => (): void => {
    const to = at + (sign * (span.endUs - span.startUs)) / CURSOR_STEPS;
    parts.onCursor(Math.min(Math.max(to, span.startUs), span.endUs));
  };
  const free = allow === null;
  const time = {
    l: on.onMode,
    '[': () => actions.setWindow(stepped(span, -1)),
    ']': () => actions.setWindow(stepped(span, 1)),
    '+': () => actions.setWindow(zoomed(span, 0.5, at)),
    '-': () => actions.setWindow(zoomed(span, 2, at)),
    '0': actions.undo,
  };
  useKeys({
    ...(free || allow.includes('time') ? time : {}),
    ...(free ? { f: on.onFit, p: on.onAdd } : {}),
    a: () => on.onMark('a'),
    b: () => on.onMark('b'),
    g: on.onFigures,
    n: parts.onTheme,
    '?': on.onKeys,
    Escape: () => {
      on.onClose();
      parts.onCursor(null);
    },
    ArrowLeft: moveCursor(-1),
    ArrowRight: moveCursor(1),
    ...Object.fromEntries(parts.penIds.slice(0, 9).map((uid, i) => [String(i + 1), () => on.onSelect(uid)])),
  });
}
