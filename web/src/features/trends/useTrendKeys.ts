import type { Span } from '../../shared/lib/time';
import { useKeys } from './keys';
import { stepped, zoomed } from './state';
import type { TrendActions } from './useTrendState';

export interface TrendKeyParts {
  span: Span;
  cursorUs: number | null;
  /** Uids of the numbered pens, in order. */
  penIds: readonly string[];
  actions: TrendActions;
  onMode: () => void;
  onFit: () => void;
  onMark: (name: 'a' | 'b') => void;
  onFigures: () => void;
  onSelect: (uid: string) => void;
  onCursor: (atUs: number | null) => void;
  onPicker: () => void;
  onKeys: () => void;
  onClose: () => void;
  onTheme: () => void;
}

const CURSOR_STEPS = 100;

/** The keys of a trend, bound to what they do. */
export function useTrendKeys(parts: TrendKeyParts): void {
  const { span, cursorUs, actions } = parts;
  const middle = (span.startUs + span.endUs) / 2;
  const at = cursorUs ?? middle;
  const moveCursor = (sign: number) => (): void => {
    const to = at + (sign * (span.endUs - span.startUs)) / CURSOR_STEPS;
    parts.onCursor(Math.min(Math.max(to, span.startUs), span.endUs));
  };
  useKeys({
    l: parts.onMode,
    '[': () => actions.setWindow(stepped(span, -1)),
    ']': () => actions.setWindow(stepped(span, 1)),
    '+': () => actions.setWindow(zoomed(span, 0.5, at)),
    '-': () => actions.setWindow(zoomed(span, 2, at)),
    '0': actions.undo,
    f: parts.onFit,
    a: () => parts.onMark('a'),
    b: () => parts.onMark('b'),
    g: parts.onFigures,
    p: parts.onPicker,
    n: parts.onTheme,
    '?': parts.onKeys,
    Escape: () => {
      parts.onClose();
      parts.onCursor(null);
    },
    ArrowLeft: moveCursor(-1),
    ArrowRight: moveCursor(1),
    ...Object.fromEntries(
      parts.penIds.slice(0, 9).map((uid, i) => [String(i + 1), () => parts.onSelect(uid)]),
    ),
  });
}
