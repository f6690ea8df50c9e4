/** Runs: named stretches of time, newest first, following live. */
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { client, unwrap } from '../../api/client';
import { errorText } from '../../api/errors';
import { plantQuery } from '../../api/queries';
import { RUNS, runRulesQuery, runsQuery, type Run } from './queries';
import { RunsView } from './RunsView';

export function RunsPage(): ReactElement {
  const [search, setSearch] = useState('');
  const [rule, setRule] = useState('');
  const [open, setOpen] = useState<string | null>(null);
  const { data: plant } = useQuery(plantQuery);
  const { data: rules = [] } = useQuery(runRulesQuery);
  const { data, isSuccess, hasNextPage, fetchNextPage, dataUpdatedAt } = useInfiniteQuery(
    runsQuery(search.trim(), rule),
  );
  const queries = useQueryClient();
  const asking = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => queries.invalidateQueries({ queryKey: [RUNS] }),
  });
  const begin = (name: string): void =>
    // The server says when: the clock of this machine may be off.
    asking.mutate(async () => unwrap(await client.POST('/api/runs', { body: { name } })));
  const change = (run: Run, name: string, ends_now: boolean): void =>
    asking.mutate(async () =>
      unwrap(
        await client.PATCH('/api/runs/{uid}', {
          params: { path: { uid: run.uid } },
          body: { name, end_us: run.end_us, ends_now },
        }),
      ),
    );
  const remove = (run: Run): void => {
    setOpen(null);
    asking.mutate(async () => client.DELETE('/api/runs/{uid}', { params: { path: { uid: run.uid } } }));
  };
  return (
    <RunsView
      runs={data?.pages.flatMap((page) => page.runs) ?? []}
      known={isSuccess}
      rules={rules}
      zone={plant?.zone ?? 'UTC'}
      nowUs={dataUpdatedAt * 1000}
      search={search}
      rule={rule}
      open={open}
      problem={asking.error === null ? null : errorText(asking.error)}
      onSearch={setSearch}
      onRule={setRule}
      onOpen={setOpen}
      onBegin={begin}
      onEnd={(run) => change(run, run.name, true)}
      onRename={(run, name) => change(run, name, false)}
      onRemove={remove}
      onMore={hasNextPage ? () => void fetchNextPage() : null}
    />
  );
}
