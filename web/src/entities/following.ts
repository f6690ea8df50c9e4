/** What pages show is read anew when the server says that it was changed, by whomever. */
import { useQueryClient, type QueryClient, type QueryKey } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { Health } from '../platform/client';
import { configuration } from '../platform/configuration';
import { live } from '../platform/live';
import { session } from '../platform/session';
import { healthQuery } from './health';
import { JOBS } from './jobs';
import { NOTES } from './notes';
import { meQuery } from './plant';
import { REPORTS } from './reports';
import { RUNS } from './runs';
import { SETUP } from './setup';
import { SHEETS } from './sheets';
import { WINDOWS } from './windows';

const OF_SETUP: readonly QueryKey[] = [[SETUP], ['tags'], ['statistics'], ['records', 'columns']];

/** Keys of the queries that each kind of change touches; kinds as the server names them. */
const TOUCHED: Readonly<Record<string, readonly QueryKey[]>> = {
  plant: [['plant'], [WINDOWS], ...OF_SETUP],
  source: OF_SETUP,
  tag: OF_SETUP,
  archive: OF_SETUP,
  logger: [...OF_SETUP, ['records', 'loggers']],
  run: OF_SETUP,
  equipment_class: OF_SETUP,
  equipment: OF_SETUP,
  coverage: [[SETUP, 'coverage']],
  history: [['curves'], ['made'], ['readings'], ['explain'], ['statistics'], ['samples'], ['modified']],
  records: [['records', 'loggers']],
  runs: [[RUNS]],
  notes: [[NOTES]],
  sheets: [[SHEETS]],
  reports: [[REPORTS]],
  jobs: [[JOBS]],
};

/** Reads anew what was changed; of changes that come while that goes on, once more for all of them. */
export class Refresher {
  private readonly running = new Map<string, 'once' | 'again'>();
  private readonly seen: Map<string, string>;

  constructor(
    private readonly queries: Pick<QueryClient, 'invalidateQueries'>,
    counts: Readonly<Record<string, string>>,
  ) {
    this.seen = new Map(Object.entries(counts));
  }

  /** Takes the counts of changes that the server tells. */
  take(counts: ReadonlyMap<string, string>): void {
    for (const [topic, count] of counts) {
      if (this.seen.get(topic) === count) continue;
      this.seen.set(topic, count);
      void this.refresh(topic);
    }
  }

  private async refresh(topic: string): Promise<void> {
    if (this.running.has(topic)) {
      this.running.set(topic, 'again');
      return;
    }
    do {
      this.running.set(topic, 'once');
      const keys = TOUCHED[topic] ?? [];
      await Promise.all(keys.map((queryKey) => this.queries.invalidateQueries({ queryKey })));
    } while (this.running.get(topic) === 'again');
    this.running.delete(topic);
  }
}

/** Keeps all that is shown as it is on the server, as long as the page is open. */
export function useServerChanges(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const refresher = new Refresher(queries, configuration.counts);
    const takeHealth = (health: Health): void => {
      queries.setQueryData(healthQuery.queryKey, (before) =>
        // Without a first answer there is no clock to go by: it is on its way.
        before === undefined ? before : { ...health, clock: before.clock },
      );
    };
    const follower = live.follow(
      {
        onCounts: (counts) => refresher.take(counts),
        onState: (_, state) => takeHealth(state as Health),
        onLink: (link) => {
          if (link !== 'lost') return;
          void queries.invalidateQueries({ queryKey: healthQuery.queryKey });
          // It may have been ended because the person was signed out, or guests may look no more.
          if (queries.getQueryData(meQuery.queryKey) !== undefined)
            void queries.invalidateQueries({ queryKey: meQuery.queryKey });
        },
      },
      { topics: ['changes', 'health'] },
    );
    const unsubscribe = session.subscribe(() => {
      // That nobody is known who asks is a refusal, too: it is no reason to ask again.
      if (queries.isFetching({ queryKey: meQuery.queryKey }) > 0) return;
      void queries.invalidateQueries({ queryKey: meQuery.queryKey });
    });
    return () => {
      follower.end();
      unsubscribe();
    };
  }, [queries]);
}
