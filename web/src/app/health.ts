/** The plant's health in words. */
import * as common from 'texts/common.json';
import * as wording from 'texts/app.json';
import { fill } from '../domain/fill';
import type { Health } from '../platform/client';

export const STATES: Record<string, string> = {
  running: common.recording,
  late: wording.recorderLate,
  lost: wording.recorderDoesNotRun,
  stopped: wording.recorderStopped,
  never_started: wording.recorderNeverRan,
};

/** What is wrong inside, beside sources and disks: what it is, and in words. */
export function faultsOf({ recorder, worker, faults }: Health): [string, string][] {
  const found: [string, string][] = [];
  const refused = recorder?.quarantined ?? 0;
  if (refused > 0)
    found.push([wording.quarantine, fill(wording.refusedPartsRefusedByTheDatabase, { refused })]);
  const inside = recorder?.faults ?? 0;
  if (inside > 0) found.push([common.recorder, fill(wording.insideFaultsInsideItSeeSet, { inside })]);
  if (worker?.state === 'failing' || worker?.state === 'silent')
    found.push([wording.worker, fill(wording.stateSeeSetUpRecorder, { state: worker.state })]);
  for (const task of faults) found.push([common.server, fill(wording.itsTaskTaskFailedAndWas, { task })]);
  return found;
}
