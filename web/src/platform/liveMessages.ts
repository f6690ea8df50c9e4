/** What goes over the live connection, and what followers are told of it. */
import * as wording from 'texts/platform.json';
import type { Scalar } from '../domain/format';

export interface LiveValue {
  tUs: number;
  v: Scalar;
  q: number;
}

export interface LiveSamples {
  tag: string;
  /** Number of the archive they are kept in; a tag may be kept in two. */
  archive: number;
  t: number[];
  v: number[];
  q: number[];
}

/** Until when all is known, µs: of every tag, and of those of sources that are further ahead. */
export interface LiveKnown {
  untilUs: number;
  ahead: ReadonlyMap<string, number>;
}

/** `changes`: how often what was changed. The others are states of the whole. */
export type LiveTopic = 'changes' | 'health' | 'recorder';

/** What is followed. `tags`: samples and present values; `values`: present values alone. */
export interface Following {
  tags?: readonly string[];
  values?: readonly string[];
  topics?: readonly LiveTopic[];
}

/** `refused`: the server does not understand this page; trying again would not help. */
export type LinkState = 'connecting' | 'open' | 'lost' | 'refused';

export interface LiveListener {
  /** `why`: the reason of a refusal. */
  onLink?(state: LinkState, why: string): void;
  onDatabase?(up: boolean): void;
  onValues?(values: ReadonlyMap<string, LiveValue>): void;
  /** `sinceUs`: from when on no sample is missing, with the first ones of a tag. */
  onSamples?(samples: readonly LiveSamples[], known: LiveKnown, sinceUs?: number): void;
  /** Too much was missed: curves must be read anew. */
  onResync?(): void;
  /** How often each kind of thing has changed: all of them at first, then what is new. */
  onCounts?(counts: ReadonlyMap<string, string>): void;
  onState?(topic: LiveTopic, state: unknown): void;
  /** These tags are not followed, and why. */
  onRefused?(tags: readonly string[], why: string): void;
}

export interface Follower {
  /** Follows this from now on, in place of what it followed before. */
  follow: (following: Following) => void;
  end: () => void;
}

export interface WireValue {
  tag: string;
  t_us: string;
  v: Scalar;
  q: number;
}

export interface WireSamples {
  tag: string;
  archive: number;
  t_us: string[];
  v: Scalar[];
  q: number[];
}

export type Message =
  | { type: 'values'; values: WireValue[] }
  | {
      type: 'samples';
      cursor: string;
      known_until_us: string;
      ahead: Record<string, string>;
      since?: string[];
      since_us?: string;
      series: WireSamples[];
    }
  | { type: 'resync'; cursor: string | null }
  | { type: 'database'; up: boolean }
  | { type: 'changed'; counts: Record<string, string> }
  | { type: 'state'; of: LiveTopic; state: unknown }
  | { type: 'alive' }
  | { type: 'refused'; detail: string; tags?: string[]; topics?: string[] };

/** A message that cannot be read is said: asking again would bring it again. */
export function understood(text: string): Message {
  try {
    return JSON.parse(text) as Message;
  } catch {
    return { type: 'refused', detail: wording.whatTheServerSendsCannotBe };
  }
}

/** Samples as columns of numbers; what is Bad has no value. */
export function samplesIn(wire: WireSamples): LiveSamples {
  const v = wire.v.map((x) => (x === null ? NaN : Number(x)));
  return { tag: wire.tag, archive: wire.archive, t: wire.t_us.map(Number), v, q: wire.q };
}
