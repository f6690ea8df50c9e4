/** What is known of the tags of a trend: history, live samples, and the tags that scales and guide lines need. */
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef } from 'react';
import type { Tag } from '../../../platform/client';
import { SECOND, type Span } from '../../../domain/time';
import type { Names } from '../model/display';
import { archivesOf, besidePens, type Looks } from '../model/looks';
import { asTag, type MadePens } from '../model/made';
import { traces, type Trace } from '../model/model';
import { goesOn, type WindowChoice } from '../../../domain/windows';
import { triggerOf, type TrendState } from '../model/state';
import { useCurves, type Curves } from './useCurves';
import { useLive, type LiveSnapshot } from './useLive';
import { useMade } from './useMade';
import { tagNamesQuery } from '../../../entities/tags';

/** The tags of a trend, followed live. */
export interface Followed {
  /** Uids of the pens, in their order. */
  uids: readonly string[];
  /** Uids that only scales and guide lines need. */
  helpers: readonly string[];
  /** Uids that the view names and that no tag has any more. */
  gone: readonly string[];
  tags: readonly Tag[];
  live: LiveSnapshot;
  looks: Looks;
  made: MadePens;
  /** What pens are called. */
  names: Names;
  /** Uids of the pens that are tags, and tag:archive where one is chosen. */
  real: readonly string[];
  archives: readonly string[];
  error: Error | null;
}

export function useFollowed(
  { looks, refresh, made, display: { names } }: TrendState,
  named: readonly string[],
): Followed {
  const trigger = triggerOf(refresh);
  const beside = useMemo(() => besidePens(looks, named, trigger), [looks, named, trigger]);
  const asked = useMemo(
    () => [...named.filter((uid) => made[uid] === undefined), ...beside],
    [named, beside, made],
  );
  const { data = NONE, error, isSuccess, isPlaceholderData } = useQuery(tagNamesQuery(asked));
  const certain = isSuccess && !isPlaceholderData;
  const gone = useMemo(() => (certain ? missing(asked, data) : NOBODY), [certain, asked, data]);
  const uids = useMemo(() => without(named, gone), [named, gone]);
  const helpers = useMemo(() => without(beside, gone), [beside, gone]);
  const real = useMemo(() => without(asked, gone), [asked, gone]);
  const unrecorded = useMemo(
    () => data.filter((tag) => tag.recorded.length === 0).map((tag) => tag.uid),
    [data],
  );
  const live = useLive(real, unrecorded);
  const tags = useMemo(() => {
    const known = new Map(data.map((tag) => [tag.uid, tag]));
    return [...uids, ...helpers].flatMap((uid) => {
      const pen = made[uid];
      return (pen === undefined ? known.get(uid) : asTag(uid, pen)) ?? [];
    });
  }, [data, uids, helpers, made]);
  const own = useMemo(() => uids.filter((uid) => made[uid] === undefined), [uids, made]);
  const archives = useMemo(() => archivesOf(looks, own), [looks, own]);
  return useMemo(
    () => ({ uids, helpers, gone, tags, live, looks, made, names, real: own, archives, error }),
    [uids, helpers, gone, tags, live, looks, made, names, own, archives, error],
  );
}

const NONE: readonly Tag[] = [];
const NOBODY: readonly string[] = [];

function without(all: readonly string[], gone: readonly string[]): readonly string[] {
  return gone.length === 0 ? all : all.filter((uid) => !gone.includes(uid));
}

function missing(asked: readonly string[], found: readonly Tag[]): readonly string[] {
  const known = new Set(found.map((tag) => tag.uid));
  const gone = asked.filter((uid) => !known.has(uid));
  return gone.length === 0 ? NOBODY : gone;
}

/** What comes in after the curve was read is needed; some of it may have come before. */
function useKept(keepFrom: LiveSnapshot['keepFrom'], isLive: boolean, readUntilUs: number | null): void {
  const reader = useRef({});
  useEffect(() => {
    // While a curve is being read anew, the one before it is still drawn on.
    if (!isLive) keepFrom(reader.current, null);
    else if (readUntilUs !== null) keepFrom(reader.current, readUntilUs - MARGIN_US);
  }, [keepFrom, isLive, readUntilUs]);
  useEffect(() => {
    const { current } = reader;
    return () => keepFrom(current, null);
  }, [keepFrom]);
}

const MARGIN_US = 60 * SECOND;

export interface Traces {
  /** The pens, in their order. */
  known: readonly Trace[];
  /** All by uid. */
  others: ReadonlyMap<string, Trace>;
  curves: Curves;
}

const NOTHING_NEW = {
  tails: new Map<string, never>(),
  knownUntilUs: 0,
  ahead: new Map<string, never>(),
};

/** A window whose curves know it to its end: what comes in changes nothing of it, so nothing is drawn anew. */
function isOver(span: Span, tags: readonly string[], curves: Curves['curves']): boolean {
  return tags.every((tag) => Number(curves.get(tag)?.details.known_until_us ?? 0) >= span.endUs);
}

/** What they were in a window, drawn so many pixels wide. */
export function useTraces(followed: Followed, window: WindowChoice, span: Span, width: number): Traces {
  const { uids, helpers, tags, live, looks, made, names } = followed;
  const real = useMemo(
    () => [...uids.filter((uid) => made[uid] === undefined), ...helpers],
    [uids, helpers, made],
  );
  const archives = useMemo(() => archivesOf(looks, real), [looks, real]);
  const { resyncs, sinceUs } = live;
  const found = useCurves({ tags: real, archives, window, span, width, resyncs, sinceUs });
  useKept(live.keepFrom, goesOn(window), found.readUntilUs);
  const calculated = useMade(made, uids, span, width);
  const curves = useMemo(() => new Map([...found.curves, ...calculated]), [found.curves, calculated]);
  const { tails, memories, knownUntilUs } = live;
  const over = isOver(span, real, found.curves);
  const came = over ? NOTHING_NEW.tails : tails;
  const untilUs = over ? NOTHING_NEW.knownUntilUs : knownUntilUs;
  const ahead = over ? NOTHING_NEW.ahead : live.ahead;
  const tail = useMemo(
    () => ({ tails: came, memories, knownUntilUs: untilUs, ahead }),
    [came, memories, untilUs, ahead],
  );
  const known = useMemo(() => {
    const pens = tags.filter((tag) => uids.includes(tag.uid));
    return traces(pens, curves, tail, looks, made, names);
  }, [tags, uids, curves, tail, looks, made, names]);
  const others = useMemo(() => {
    const beside = tags.filter((tag) => helpers.includes(tag.uid));
    const both = [...known, ...traces(beside, curves, tail)];
    return new Map(both.map((trace) => [trace.tag.uid, trace]));
  }, [tags, helpers, known, curves, tail]);
  return { known, others, curves: found };
}
