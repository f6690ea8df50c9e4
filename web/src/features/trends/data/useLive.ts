import { useEffect, useState, useSyncExternalStore } from 'react';
import { SECOND } from '../../../domain/time';
import { live } from '../../../platform/live';
import type { Follower, LinkState, LiveSamples, LiveValue } from '../../../platform/liveMessages';

export interface LiveSnapshot {
  link: LinkState;
  /** Why the server will not follow some of the tags. */
  refusal: string;
  databaseUp: boolean;
  values: ReadonlyMap<string, LiveValue>;
  /** Samples since the page follows, by tag and archive (tailKey); pruned to the newest. */
  tails: ReadonlyMap<string, LiveSamples>;
  /** Values that changed while the page is open, by tag: all there is of what is not recorded. */
  memories: ReadonlyMap<string, LiveSamples>;
  knownUntilUs: number;
  /** Tags whose source is known for longer than the slowest one. */
  ahead: ReadonlyMap<string, number>;
  /** From when on no sample is missing, µs: a curve that was read before has a hole. 0: not known yet. */
  sinceUs: number;
  /** Tells from when on a reader needs the samples that came in; null: it needs none any more. */
  keepFrom: (reader: object, fromUs: number | null) => void;
  /** How often samples were missed for good: curves must be read anew. */
  resyncs: number;
}

const MOST_TAIL = 20_000;
/** In the place of an archive: what nobody records. */
const UNRECORDED = 0;
const EMPTY: LiveSnapshot = {
  link: 'connecting',
  refusal: '',
  databaseUp: true,
  values: new Map(),
  tails: new Map(),
  memories: new Map(),
  knownUntilUs: 0,
  ahead: new Map(),
  sinceUs: 0,
  keepFrom: () => undefined,
  resyncs: 0,
};
/** So much of what came in is kept in any case. */
const KEPT_US = 60 * SECOND;

/** What arrives over the live link, as a store for React. */
class LiveFeed {
  private readonly needed = new Map<object, number>();

  /** What all readers have from history is forgotten: a page that stays open for days does not grow. */
  private readonly keepFrom = (reader: object, fromUs: number | null): void => {
    if (fromUs === null) this.needed.delete(reader);
    else this.needed.set(reader, fromUs);
  };

  private snapshot: LiveSnapshot = { ...EMPTY, keepFrom: this.keepFrom };
  private follower: Follower | null = null;
  private remembered: ReadonlySet<string> = new Set();
  private readonly watchers = new Set<() => void>();

  readonly subscribe = (watcher: () => void): (() => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };

  readonly get = (): LiveSnapshot => this.snapshot;

  /** Follows these tags; what is known of tags that stay stays. */
  follow(tags: readonly string[]): void {
    const mine = new Set(tags);
    const { values, tails, memories } = this.snapshot;
    this.set({
      values: new Map([...values].filter(([tag]) => mine.has(tag))),
      tails: new Map([...tails].filter(([, tail]) => mine.has(tail.tag))),
      memories: new Map([...memories].filter(([, tail]) => mine.has(tail.tag))),
      refusal: '',
    });
    if (tags.length === 0) this.close();
    else if (this.follower === null) this.follower = this.join(tags);
    else this.follower.follow({ tags });
  }

  close(): void {
    this.follower?.end();
    this.follower = null;
  }

  private join(tags: readonly string[]): Follower {
    return live.follow(
      {
        onLink: (link, refusal) => this.set({ link, refusal }),
        onRefused: (_, refusal) => this.set({ refusal }),
        onDatabase: (databaseUp) => this.set({ databaseUp }),
        onValues: (values) =>
          this.set({
            values: new Map([...this.snapshot.values, ...values]),
            memories: withSamples(this.snapshot.memories, this.newerOf(values)),
          }),
        onSamples: (samples, known, sinceUs = this.snapshot.sinceUs) =>
          this.set({
            tails: withSamples(this.snapshot.tails, samples, this.neededUs(known.untilUs)),
            knownUntilUs: known.untilUs,
            ahead: known.ahead,
            sinceUs,
          }),
        onResync: () => this.set({ tails: new Map(), resyncs: this.snapshot.resyncs + 1 }),
      },
      { tags },
    );
  }

  /** Of these tags the values that come in are kept: nobody records them. */
  remember(tags: readonly string[]): void {
    this.remembered = new Set(tags);
  }

  private newerOf(values: ReadonlyMap<string, LiveValue>): LiveSamples[] {
    return [...values]
      .filter(([tag, { tUs }]) => this.remembered.has(tag) && tUs > (this.snapshot.values.get(tag)?.tUs ?? 0))
      .map(([tag, { tUs, v, q }]) => ({
        tag,
        archive: UNRECORDED,
        t: [tUs],
        v: [v === null ? NaN : Number(v)],
        q: [q],
      }));
  }

  private neededUs(knownUntilUs: number): number {
    return Math.min(knownUntilUs - KEPT_US, ...this.needed.values());
  }

  private set(change: Partial<LiveSnapshot>): void {
    this.snapshot = { ...this.snapshot, ...change };
    this.watchers.forEach((watcher) => watcher());
  }
}

/** Follows these tags live; keeps the values of those that nobody records. */
export function useLive(tags: readonly string[], unrecorded: readonly string[]): LiveSnapshot {
  // Another order of the pens is no other wish.
  const key = [...new Set(tags)].sort().join(',');
  const [feed] = useState(() => new LiveFeed());
  useEffect(() => feed.follow(key === '' ? [] : key.split(',')), [feed, key]);
  useEffect(() => () => feed.close(), [feed]);
  useEffect(() => feed.remember(unrecorded), [feed, unrecorded]);
  return useSyncExternalStore(feed.subscribe, feed.get);
}

/** Under what the samples of a tag in an archive are kept. */
export const tailKey = (tag: string, archive: number): string =>
  archive === UNRECORDED ? tag : `${tag}@${archive}`;

/** Samples joined to those that came before, without those before a moment. */
export function withSamples(
  tails: ReadonlyMap<string, LiveSamples>,
  samples: readonly LiveSamples[],
  fromUs = 0,
): ReadonlyMap<string, LiveSamples> {
  if (samples.length === 0) return tails;
  const next = new Map(tails);
  for (const more of samples) {
    const key = tailKey(more.tag, more.archive);
    const old = next.get(key);
    next.set(key, old === undefined ? more : join(old, more, fromUs));
  }
  return next;
}

function join(old: LiveSamples, more: LiveSamples, fromUs: number): LiveSamples {
  const first = old.t.findIndex((t) => t >= fromUs);
  const from = Math.max(first < 0 ? old.t.length : first, old.t.length + more.t.length - MOST_TAIL, 0);
  return {
    tag: old.tag,
    archive: old.archive,
    t: [...old.t.slice(from), ...more.t],
    v: [...old.v.slice(from), ...more.v],
    q: [...old.q.slice(from), ...more.q],
  };
}
