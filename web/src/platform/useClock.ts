import { useEffect, useState } from 'react';

const byThisMachine = (): number => Date.now() * 1000;

/** This machine's time in µs, anew every `everyMs` while `running` and the tab is visible. */
export function useClock(everyMs: number, running: boolean, first: () => number = byThisMachine): number {
  const [nowUs, setNowUs] = useState(first);
  useEffect(() => {
    if (!running) return undefined;
    const tick = (): void => {
      if (!document.hidden) setNowUs(byThisMachine());
    };
    const timer = window.setInterval(tick, everyMs);
    document.addEventListener('visibilitychange', tick);
    return () => {
      window.clearInterval(timer);
      document.removeEventListener('visibilitychange', tick);
    };
  }, [everyMs, running]);
  return nowUs;
}
