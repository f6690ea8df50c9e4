import { useEffect, useState } from 'react';

/** A value once it has stood for a while; the first one at once. */
export function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    if (value === settled) return undefined;
    const timer = globalThis.setTimeout(() => setSettled(value), ms);
    return () => globalThis.clearTimeout(timer);
  }, [value, settled, ms]);
  return settled;
}
