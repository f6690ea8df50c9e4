import { useEffect, useState } from 'react';
import { takeBegunUs } from '../early';

/** The server's time in µs, anew every `everyMs` while `running` and the tab is visible. */
export function useNow(offsetUs: number, everyMs: number, running: boolean): number {
  const [now, setNow] = useState(takeBegunUs);
  useEffect(() => {
    if (!running) return undefined;
    const tick = (): void => {
      if (!document.hidden) setNow(Date.now() * 1000);
    };
    const timer = window.setInterval(tick, everyMs);
    document.addEventListener('visibilitychange', tick);
    return () => {
      window.clearInterval(timer);
      document.removeEventListener('visibilitychange', tick);
    };
  }, [everyMs, running]);
  return now + offsetUs;
}
