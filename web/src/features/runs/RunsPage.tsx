/** Runs: named stretches of time, newest first, following live. */
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../platform/errors';
import { useClock } from '../../platform/useClock';
import { usePreloaded } from '../../ui/lazyPart';
import { PRELOADED } from './parts';
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
  usePreloaded(isSuccess, PRELOADED);
  const queries = useQueryClient();
  const askAnew = (): Promise<void> => queries.invalidateQueries({ queryKey: [RUNS] });
  const ending = useMutation({
    mutationFn: (run: Run) => changeRun(run, run.name, true),
    onSuccess: askAnew,
  });
  const removing = useMutation({ mutationFn: removeRun, onSuccess: askAnew });
  const problem = ending.error ?? removing.error ?? where.error;
  const remove = (run: Run): void => {
    setOpen(null);
    removing.mutate(run);
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
      onBegin={can('annotate') ? (name) => beginRun(name).then(askAnew) : null}
      onEnd={ending.mutate}
      onRename={(run, name) => changeRun(run, name, false).then(askAnew)}
      onRemove={remove}
      onMore={hasNextPage ? () => void fetchNextPage() : null}
    />
  );
}
