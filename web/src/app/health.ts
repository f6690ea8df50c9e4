/** The plant's health in words. */
import type { Health } from '../platform/client';

export const STATES: Record<string, string> = {
  running: 'Recording',
  late: 'Recorder late',
  lost: 'Recorder does not run',
  stopped: 'Recorder stopped',
  never_started: 'Recorder never ran',
};

/** What is wrong inside, beside sources and disks: what it is, and in words. */
export function faultsOf({ recorder, worker, faults }: Health): [string, string][] {
  const found: [string, string][] = [];
  const refused = recorder?.quarantined ?? 0;
  if (refused > 0)
    found.push(['Quarantine', `${refused} parts refused by the database, see Set-up, Recorder`]);
  const inside = recorder?.faults ?? 0;
  if (inside > 0) found.push(['Recorder', `${inside} faults inside it, see Set-up, Recorder`]);
  if (worker?.state === 'failing' || worker?.state === 'silent')
    found.push(['Worker', `${worker.state}, see Set-up, Recorder`]);
  for (const task of faults) found.push(['Server', `its task ${task} failed and was started again`]);
  return found;
}
