/** Runs: named stretches of time, newest first, following live. */
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../platform/errors';
import { useClock } from '../../platform/useClock';
import { RunsView } from './RunsView';
import { plantQuery, useCan } from '../../entities/plant';
import { useWindowInAddress } from '../../entities/useWindowInAddress';
import { useAddress } from '../../platform/useAddress';
import {
  RUNS,
  runRulesQuery,
  runPagesQuery as runsQuery,
  type Run,
  beginRun,
  changeRun,
  removeRun,
} from '../../entities/runs';

export function RunsPage(): ReactElement {
  const [search, setSearch] = useState('');
  const [rule, setRule] = useState('');
  const [open, setOpen] = useState<string | null>(null);
  const { data: plant } = useQuery(plantQuery);
  const where = useWindowInAddress(useAddress(), null);
  const { data: rules = [] } = useQuery(runRulesQuery);
  const { data, isSuccess, hasNextPage, fetchNextPage } = useInfiniteQuery(
    runsQuery(search.trim(), rule, where.listed),
  );
  // What has left the window since the list was read is in it no more.
  const sinceUs = where.span?.startUs ?? 0;
  const runs = (data?.pages.flatMap((page) => page.runs) ?? []).filter(
    (run) => run.end_us === null || Number(run.end_us) >= sinceUs,
  );
  const nowUs = useClock(
    1_000,
    runs.some((run) => run.end_us === null),
  );
  const can = useCan();
  const queries = useQueryClient();
  const asking = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => queries.invalidateQueries({ queryKey: [RUNS] }),
  });
  const problem = asking.error ?? where.error;
  const begin = (name: string, onDone: () => void): void =>
    asking.mutate(() => beginRun(name), { onSuccess: onDone });
  const change = (run: Run, name: string, ends_now: boolean): void =>
    asking.mutate(() => changeRun(run, name, ends_now));
  const remove = (run: Run): void => {
    setOpen(null);
    asking.mutate(() => removeRun(run));
  };
  return (
    <RunsView
      runs={runs}
      known={isSuccess}
      rules={rules}
      zone={plant?.zone ?? 'UTC'}
      nowUs={nowUs}
      search={search}
      rule={rule}
      open={open}
      problem={problem === null ? null : errorText(problem)}
      isAll={where.window === null}
      onAll={() => where.setWindow(null)}
      onSearch={setSearch}
      onRule={setRule}
      onOpen={setOpen}
      onBegin={can('annotate') ? begin : null}
      onEnd={(run) => change(run, run.name, true)}
      onRename={(run, name) => change(run, name, false)}
      onRemove={remove}
      onMore={hasNextPage ? () => void fetchNextPage() : null}
    />
  );
}
