/** Follows present values of tags, and reads the course of the last minutes. */
import type { StoreApi } from 'zustand/vanilla';
import { isBad } from '../../domain/quality';
import { joined, lengthened, NO_TRAIL, numberOf } from '../../domain/trail';
import { errorText } from '../../platform/errors';
import type { LiveConnection } from '../../platform/live';
import type { Follower, LiveValue } from '../../platform/liveMessages';
import { TRAIL_US, type Present } from './state';
import type { Curve, CurvesRequest } from '../curves';

/** Pixel columns of a small picture. */
const WIDTH = 60;
/** So many tags are asked for at once. */
const MOST_AT_ONCE = 40;

export interface PresentStore {
  /** Follows these tags in the place of those before. */
  follow: (uids: readonly string[]) => void;
  /** How far the server's clock is ahead, µs. */
  setAhead: (us: number) => void;
  /** Nobody looks any more. */
  end: () => void;
}

export interface PresentParts {
  values: StoreApi<Present>;
  connection: Pick<LiveConnection, 'follow'>;
  read: (request: CurvesRequest, signal: AbortSignal) => Promise<readonly Curve[]>;
  nowUs: () => number;
}

/** A store for one list of tags. */
export function createPresentStore({ values, connection, read, nowUs }: PresentParts): PresentStore {
  let asking = new AbortController();
  let follower: Follower | null = null;
  let followed: readonly string[] = [];
  let aheadUs = 0;
  /** Those whose trail reaches back into history: what came in alone is not enough. */
  let known: ReadonlySet<string> = new Set();

  const take = (news: ReadonlyMap<string, LiveValue>): void => {
    const { trails, values: before } = values.getState();
    const next = new Map(trails);
    for (const [uid, { tUs, v, q }] of news) {
      const number = isBad(q) ? NaN : numberOf(v);
      if (number !== null) next.set(uid, lengthened(next.get(uid) ?? NO_TRAIL, tUs, number, tUs - TRAIL_US));
    }
    values.setState({ values: new Map([...before, ...news]), trails: next });
  };
  const readTrails = async (uids: readonly string[], signal: AbortSignal): Promise<void> => {
    const endUs = nowUs() + aheadUs;
    const isOver = (): boolean => signal.aborted;
    for (let i = 0; i < uids.length && !isOver(); i += MOST_AT_ONCE) {
      const tags = uids.slice(i, i + MOST_AT_ONCE);
      const curves = await read({ tags, startUs: endUs - TRAIL_US, endUs, width: WIDTH }, signal);
      if (isOver()) return;
      const next = new Map(values.getState().trails);
      for (const { details, t, v } of curves)
        next.set(details.tag, joined({ t: [...t], v: [...v] }, next.get(details.tag) ?? NO_TRAIL));
      known = new Set([...known, ...tags]);
      values.setState({ trails: next, problem: '' });
    }
  };
  const begin = (uids: readonly string[]): void => {
    const { signal } = asking;
    readTrails(uids, signal).catch((error: unknown) => {
      if (!signal.aborted) values.setState({ problem: errorText(error) });
    });
  };
  /** Something may have been missed: what is known is read again. */
  const beginAnew = (): void => {
    asking.abort();
    asking = new AbortController();
    known = new Set();
    values.setState({ trails: new Map() });
    begin(followed);
  };
  const follow = (uids: readonly string[]): void => {
    asking.abort();
    asking = new AbortController();
    followed = uids;
    const mine = new Set(uids);
    const before = values.getState();
    const keep = <T>(map: ReadonlyMap<string, T>): Map<string, T> =>
      new Map([...map].filter(([uid]) => mine.has(uid)));
    values.setState({ values: keep(before.values), trails: keep(before.trails) });
    if (follower !== null) follower.follow({ values: uids });
    else {
      follower = connection.follow(
        {
          onLink: (link) => {
            const { link: was } = values.getState();
            values.setState({ link });
            if (link === 'open' && was === 'lost') beginAnew();
          },
          onValues: take,
          onResync: beginAnew,
        },
        { values: uids },
      );
    }
    known = new Set([...known].filter((uid) => mine.has(uid)));
    begin(uids.filter((uid) => !known.has(uid)));
  };
  const end = (): void => {
    asking.abort();
    follower?.end();
    follower = null;
  };
  const setAhead = (us: number): void => {
    aheadUs = us;
  };
  return { follow, setAhead, end };
}
