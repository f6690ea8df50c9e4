/** What stands around the curves comes after them, in a place that is kept free for it. */
import { useDeferredValue, useEffect, useState, type ReactElement } from 'react';

/** Whether to draw what stands around the curves: once they are there, or do not come at once. From then on it stays,
 * also while other curves are on their way: what somebody has begun in it would be lost. */
export function useAround(ready: boolean): boolean {
  const [begun, setBegun] = useState(false);
  if (ready && !begun) setBegun(true);
  useEffect(() => {
    const timer = window.setTimeout(() => setBegun(true), PATIENCE_MS);
    return () => window.clearTimeout(timer);
  }, []);
  return useDeferredValue(begun, false);
}

interface RoomProps {
  ready: boolean;
  height: number;
  children: ReactElement;
}

/** What stands somewhere in a moment: what is there already does not move then. */
export function Room({ ready, height, children }: RoomProps): ReactElement {
  return ready ? children : <div style={{ height }} />;
}

const PATIENCE_MS = 500;
