import { useState } from 'react';
import type { Scalar } from '../../../domain/format';
import type { Refresh } from '../model/state';
import type { LiveSnapshot } from './useLive';

/** The moment that a live window ends with: now, or the last time it was due to move. */
export function useRefreshed(nowUs: number, refresh: Refresh | null, live: LiveSnapshot): number {
  const [heldUs, setHeldUs] = useState(nowUs);
  const [seen, setSeen] = useState<Scalar | undefined>(undefined);
  const [by, setBy] = useState<Refresh | null>(null);
  if (refresh !== by) {
    // The window that is on the screen stays until its new reason to move.
    setBy(refresh);
    if (by === null) setHeldUs(nowUs);
    return by === null ? nowUs : heldUs;
  }
  if (refresh === null) return nowUs;
  if ('everyUs' in refresh) {
    const due = Math.floor(nowUs / refresh.everyUs) !== Math.floor(heldUs / refresh.everyUs);
    if (due) setHeldUs(nowUs);
    return due ? nowUs : heldUs;
  }
  const value = live.values.get(refresh.tag)?.v;
  if (value === seen) return heldUs;
  setSeen(value);
  if (!fires(seen, value)) return heldUs;
  setHeldUs(nowUs);
  return nowUs;
}

/** A contact fires when it closes, anything else when it changes; the first value known does neither. */
export function fires(before: Scalar | undefined, now: Scalar | undefined): boolean {
  if (before == null || now == null) return false;
  return typeof now === 'boolean' ? now && !before : now !== before;
}
