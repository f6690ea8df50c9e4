/** The server's clock. */
import { useQuery } from '@tanstack/react-query';
import { aheadOf } from '../domain/clock';
import { SECOND } from '../domain/time';
import { useClock } from '../platform/useClock';
import { healthQuery } from './health';

/** How far it is ahead of the browser's, µs; what is below a second does not matter. */
export function useServerClock(): { offsetUs: number; failed: boolean } {
  const { data, error } = useQuery(healthQuery);
  const ahead =
    data === undefined
      ? 0
      : aheadOf(data.clock.nowUs, data.clock.askedMs * 1000, data.clock.answeredMs * 1000);
  const offsetUs = Math.abs(ahead) < SECOND ? 0 : Math.round(ahead / SECOND) * SECOND;
  return { offsetUs, failed: error !== null };
}

/** The server's time in µs, anew every second while `running`. */
export function useServerNow(running: boolean): number {
  const { offsetUs } = useServerClock();
  return useClock(1_000, running) + offsetUs;
}
