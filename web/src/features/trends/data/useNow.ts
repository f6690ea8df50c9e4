import { useClock } from '../../../platform/useClock';
import { takeBegunUs } from '../early';

/** The server's time in µs, anew every `everyMs` while `running`; the first is that of what was asked for early. */
export function useNow(offsetUs: number, everyMs: number, running: boolean): number {
  return useClock(everyMs, running, takeBegunUs) + offsetUs;
}
