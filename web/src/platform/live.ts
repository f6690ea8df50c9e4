/** Live values and samples by WebSocket: reconnects by itself and asks for what it missed. */
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

/** `refused`: the server will not follow these tags; trying again would not help. */
export type LinkState = 'connecting' | 'open' | 'lost' | 'refused';

export interface LiveListener {
  /** `why`: the reason of a refusal. */
  onLink(state: LinkState, why?: string): void;
  onDatabase(up: boolean): void;
  onValues(values: Map<string, LiveValue>): void;
  /** `sinceUs`, with the first ones: from when on no sample is missing. */
  onSamples(samples: LiveSamples[], known: LiveKnown, sinceUs?: number): void;
  /** Too much was missed: curves must be read anew. */
  onResync(): void;
}

/** Until when all is known, µs: of every tag, and of those of sources that are further ahead. */
export interface LiveKnown {
  untilUs: number;
  ahead: ReadonlyMap<string, number>;
}

interface WireValue {
  tag: string;
  t_us: string;
  v: Scalar;
  q: number;
}

interface WireSamples {
  tag: string;
  archive: number;
  t_us: string[];
  v: Scalar[];
  q: number[];
}

type Message =
  | { type: 'values'; values: WireValue[] }
  | {
      type: 'samples';
      cursor: string;
      known_until_us: string;
      ahead: Record<string, string>;
      since_us?: string;
      series: WireSamples[];
    }
  | { type: 'resync'; cursor: string | null }
  | { type: 'database'; up: boolean }
  | { type: 'refused'; detail: string };

const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 4000;

export interface LiveLink {
  /** Follows these tags from now on, over the connection that stands. */
  follow: (tags: readonly string[]) => void;
  close: () => void;
}

/** Opens the link for these tags. */
export function openLive(first: readonly string[], listener: LiveListener): LiveLink {
  let tags = first;
  let socket: WebSocket | null = null;
  let cursor: string | null = null;
  let pause = FIRST_PAUSE_MS;
  let timer: number | undefined;
  let ended = false;

  const connect = (): void => {
    const url = new URL('/api/live', window.location.href);
    url.protocol = url.protocol.replace('http', 'ws');
    const opened = new WebSocket(url);
    socket = opened;
    opened.onopen = () => {
      pause = FIRST_PAUSE_MS;
      opened.send(JSON.stringify({ tags, after: cursor }));
      listener.onLink('open');
    };
    opened.onmessage = (event: MessageEvent<string>) => {
      const message = understood(event.data);
      if (message.type === 'samples') cursor = message.cursor;
      if (message.type === 'refused') {
        ended = true;
        opened.close();
      }
      dispatch(message, listener);
    };
    opened.onclose = () => {
      if (ended) return;
      listener.onLink('lost');
      timer = window.setTimeout(connect, pause);
      pause = Math.min(2 * pause, LONGEST_PAUSE_MS);
    };
  };
  listener.onLink('connecting');
  connect();
  return {
    follow: (next) => {
      tags = next;
      if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ tags }));
      // What came in of the new ones is not behind the old place: it is asked for from the beginning.
      else cursor = null;
    },
    close: () => {
      ended = true;
      window.clearTimeout(timer);
      socket?.close();
    },
  };
}

/** A message that cannot be read is said: asking again would bring it again. */
function understood(text: string): Message {
  try {
    return JSON.parse(text) as Message;
  } catch {
    return { type: 'refused', detail: 'What the server sends cannot be read.' };
  }
}

function dispatch(message: Message, listener: LiveListener): void {
  switch (message.type) {
    case 'values':
      listener.onValues(new Map(message.values.map((x) => [x.tag, { tUs: Number(x.t_us), v: x.v, q: x.q }])));
      break;
    case 'samples':
      listener.onSamples(
        message.series.map(samples),
        {
          untilUs: Number(message.known_until_us),
          ahead: new Map(Object.entries(message.ahead).map(([tag, us]) => [tag, Number(us)])),
        },
        message.since_us === undefined ? undefined : Number(message.since_us),
      );
      break;
    case 'resync':
      listener.onResync();
      break;
    case 'database':
      listener.onDatabase(message.up);
      break;
    case 'refused':
      listener.onLink('refused', message.detail);
  }
}

function samples(wire: WireSamples): LiveSamples {
  const v = wire.v.map((x) => (x === null ? NaN : Number(x)));
  return { tag: wire.tag, archive: wire.archive, t: wire.t_us.map(Number), v, q: wire.q };
}
