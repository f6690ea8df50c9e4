/** Forms of the page of runs: they come once the list is there. */
import { lazyPart } from '../../ui/lazyPart';

export const BeginRun = lazyPart(
  'The field for a run of your own',
  async () => (await import('./BeginRun')).BeginRun,
);
export const RunPanel = lazyPart('This run', async () => (await import('./RunPanel')).RunPanel);
export const PRELOADED = [BeginRun, RunPanel];
