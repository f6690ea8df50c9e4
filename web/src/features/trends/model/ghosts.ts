/** Which earlier stretch is laid beside a window. */
import type { components } from '../../../platform/schema';
import type { Span } from '../../../domain/time';

type Run = Pick<components['schemas']['RunOut'], 'origin' | 'rule' | 'start_us' | 'end_us'>;

/** How much earlier the run began that came before the newest one of a window, µs; null: there is none of its
 * kind. `runs` are newest first. */
export function earlierBy(runs: readonly Run[], { startUs, endUs }: Span): number | null {
  for (const [i, run] of runs.entries()) {
    const touches = Number(run.start_us) < endUs && (run.end_us === null || Number(run.end_us) > startUs);
    if (!touches) continue;
    const before = runs.slice(i + 1).find((one) => one.origin === run.origin && one.rule === run.rule);
    if (before !== undefined) return Number(run.start_us) - Number(before.start_us);
  }
  return null;
}
