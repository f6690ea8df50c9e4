/** Keys of a table: one stop of the Tab key leads to its rows, arrows go from one to the next, Space chooses. */
import { useState, type KeyboardEvent } from 'react';

interface RowKeys {
  count: number;
  keyAt: (place: number) => string | null;
  /** Makes sure that a row exists on the page. */
  onShow: (place: number) => void;
  onToggle: ((key: string) => void) | null;
}

const PAGE = 12;

/** Where a key leads from a row; null: the key is none of the table's. */
export function placeAfter(key: string, from: number, count: number): number | null {
  const steps: Readonly<Record<string, number>> = {
    ArrowUp: from - 1,
    ArrowDown: from + 1,
    PageUp: from - PAGE,
    PageDown: from + PAGE,
    Home: 0,
    End: count - 1,
  };
  const to = steps[key];
  return to === undefined ? null : Math.min(Math.max(to, 0), count - 1);
}

export function useRowKeys({ count, keyAt, onShow, onToggle }: RowKeys): {
  /** The row at which the Tab key stops. */
  stop: number;
  onKeyDown: (event: KeyboardEvent) => void;
} {
  const [reached, setReached] = useState(0);
  const stop = Math.min(reached, Math.max(count - 1, 0));
  const onKeyDown = (event: KeyboardEvent): void => {
    const row = (event.target as HTMLElement).closest('[data-row]');
    if (row === null) return;
    const from = Number(row.getAttribute('data-row'));
    if (event.key === ' ' && onToggle !== null) {
      const key = keyAt(from);
      event.preventDefault();
      if (key !== null) onToggle(key);
      return;
    }
    const to = placeAfter(event.key, from, count);
    if (to === null) return;
    event.preventDefault();
    setReached(to);
    onShow(to);
    const { currentTarget } = event;
    // A row that was far away is there with the next picture.
    requestAnimationFrame(() => currentTarget.querySelector<HTMLElement>(`[data-row="${to}"]`)?.focus());
  };
  return { stop, onKeyDown };
}
