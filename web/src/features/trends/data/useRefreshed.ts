import { useState } from 'react';
import type { Scalar } from '../../../domain/format';
import type { Edge, Refresh } from '../model/state';
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
  if (refresh.edge === 'level') {
    if (isOn(value)) {
      if (value !== seen) setSeen(value);
      return nowUs;
    }
    if (value === seen) return heldUs;
    // It stands where it was when the tag went off.
    setSeen(value);
    setHeldUs(nowUs);
    return nowUs;
  }
  if (value === seen) return heldUs;
  setSeen(value);
  if (!fires(seen, value, refresh.edge)) return heldUs;
  setHeldUs(nowUs);
  return nowUs;
}

function isOn(value: Scalar | undefined): boolean {
  return value != null && value !== '' && Number(value) !== 0;
}

/** Whether a change is one to move at. Without an edge that is chosen a contact fires when it closes, anything else when
 * it changes; the first value known never does. Texts have no edges but their change. */
export function fires(before: Scalar | undefined, now: Scalar | undefined, edge?: Edge): boolean {
  if (before == null || now == null || before === now) return false;
  const wanted = edge ?? (typeof now === 'boolean' ? 'rising' : 'either');
  if (wanted === 'either' || typeof now === 'string') return true;
  return wanted === 'rising' ? Number(now) > Number(before) : Number(now) < Number(before);
}
