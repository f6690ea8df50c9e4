import type { Span } from '../../../domain/time';
import { useKeys } from '../model/keys';
import { stepped, zoomed, type Allowed } from '../model/state';
import type { TrendStore } from '../store/trendStore';
import { fixedWindow } from '../../../domain/windows';

export interface TrendKeyParts {
  span: Span;
  store: TrendStore;
  /** Whether the keys are for this one of the trends on the page. */
  isActive: () => boolean;
  /** Uids of the numbered pens, in order. */
  penIds: readonly string[];
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
    onWhole: () => void;
    onClose: () => void;
  }>;
  onTheme: () => void;
}

const CURSOR_STEPS = 100;
/** With Shift, in steps. */
const LARGE_STEP = 10;

/** The keys of a trend, bound to what they do. */
export function useTrendKeys(parts: TrendKeyParts): void {
  const { span, store, on, allow } = parts;
  const { actions } = store;
  const at = (): number => store.values.getState().pointerUs ?? (span.startUs + span.endUs) / 2;
  const moveCursor =
    (sign: number) =>
    (shift: boolean): void => {
      const steps = shift ? CURSOR_STEPS / LARGE_STEP : CURSOR_STEPS;
      const to = at() + (sign * (span.endUs - span.startUs)) / steps;
      actions.setCursor(Math.min(Math.max(to, span.startUs), span.endUs));
    };
  const zoom = (factor: number) => (): void => {
    const to = zoomed(span, factor, at());
    actions.setWindow(fixedWindow(to.startUs, to.endUs));
  };
  const free = allow === null;
  const time = {
    l: on.onMode,
    '[': () => actions.setWindow(stepped(span, -1)),
    ']': () => actions.setWindow(stepped(span, 1)),
    '+': zoom(0.5),
    '-': zoom(2),
    '0': actions.undo,
  };
  useKeys(parts.isActive, {
    ...(free || allow.includes('time') ? time : {}),
    ...(free ? { f: on.onFit, p: on.onAdd } : {}),
    a: () => on.onMark('a'),
    b: () => on.onMark('b'),
    g: on.onFigures,
    n: parts.onTheme,
    w: on.onWhole,
    '?': on.onKeys,
    Escape: () => {
      on.onClose();
      actions.setCursor(null);
      actions.place(null);
    },
    ArrowLeft: moveCursor(-1),
    ArrowRight: moveCursor(1),
    ...Object.fromEntries(parts.penIds.slice(0, 9).map((uid, i) => [String(i + 1), () => on.onSelect(uid)])),
  });
}
