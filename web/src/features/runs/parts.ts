/** Forms of the page of runs: they come once the list is there. */
import * as wording from 'texts/runs.json';
import { lazyPart } from '../../ui/lazyPart';

export const BeginRun = lazyPart(
  wording.theFieldForARunOf,
  async () => (await import('./BeginRun')).BeginRun,
);
export const RunPanel = lazyPart(wording.thisRun, async () => (await import('./RunPanel')).RunPanel);
export const PRELOADED = [BeginRun, RunPanel];
