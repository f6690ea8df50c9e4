/** What is known of the tags of a trend: history, live samples, and the tags that scales and guide lines need. */
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { tagNamesQuery } from '../../api/queries';
import type { Span } from '../../shared/lib/time';
import { helpersOf } from './looks';
import { traces, type Trace } from './model';
import type { TrendState } from './state';
import { useCurves, type Curves } from './useCurves';
import { useLive, type LiveSnapshot } from './useLive';

export interface Traces {
  /** The pens, in their order. */
  known: readonly Trace[];
  /** All by uid. */
  others: ReadonlyMap<string, Trace>;
  live: LiveSnapshot;
  curves: Curves;
  tagsError: Error | null;
}

export function useTraces(state: TrendState, uids: readonly string[], span: Span, width: number): Traces {
  const helpers = useMemo(() => helpersOf(state.looks, uids), [state.looks, uids]);
  const all = useMemo(() => [...uids, ...helpers], [uids, helpers]);
  const { data: tags, error: tagsError } = useQuery(tagNamesQuery(all));
  const live = useLive(all);
  const found = useCurves(all, state.window, span, width, live.resyncs);
  const { curves } = found;
  const { tails, knownUntilUs } = live;
  const known = useMemo(() => {
    const pens = (tags ?? []).filter((tag) => uids.includes(tag.uid));
    return traces(pens, curves, tails, knownUntilUs);
  }, [tags, uids, curves, tails, knownUntilUs]);
  const others = useMemo(() => {
    const beside = (tags ?? []).filter((tag) => helpers.includes(tag.uid));
    const both = [...known, ...traces(beside, curves, tails, knownUntilUs)];
    return new Map(both.map((trace) => [trace.tag.uid, trace]));
  }, [tags, helpers, known, curves, tails, knownUntilUs]);
  return { known, others, live, curves: found, tagsError };
}
