/** One live connection for the whole page: whoever needs something follows it, and it is asked for as long as one does.
 * It connects anew by itself and asks for what it missed. */
import { served } from './configuration';
import {
  samplesIn,
  understood,
  type Follower,
  type Following,
  type LinkState,
  type LiveKnown,
  type LiveListener,
  type LiveSamples,
  type LiveTopic,
  type LiveValue,
  type Message,
  type WireValue,
} from './liveMessages';
import { Recent } from './recent';

const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 4000;
/** The server says something every 5 s at least: who is silent for so long is gone, though the connection stands. */
const SILENT_MS = 16_000;
const LOOK_MS = 4_000;

/** Everything that is followed: sorted, each thing once. */
interface Wanted {
  tags: readonly string[];
  values: readonly string[];
  topics: readonly string[];
}

interface Entry {
  listener: LiveListener;
  tags: ReadonlySet<string>;
  values: ReadonlySet<string>;
  topics: ReadonlySet<string>;
}

export class LiveConnection {
  link: LinkState = 'connecting';
  private why = '';
  private databaseUp = true;
  private readonly entries = new Set<Entry>();
  private readonly recent = new Recent();
  private readonly values = new Map<string, LiveValue>();
  private readonly counts = new Map<string, string>();
  private readonly states = new Map<LiveTopic, unknown>();
  private known: LiveKnown = { untilUs: 0, ahead: new Map() };
  private sent = '';
  private socket: WebSocket | null = null;
  private cursor: string | null = null;
  private pause = FIRST_PAUSE_MS;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private watch: ReturnType<typeof setInterval> | undefined;
  private heardMs = 0;
  private settling = false;

  constructor(private readonly open: () => WebSocket) {}

  /** Follows something; what is known of it already is told at once. */
  follow(listener: LiveListener, first: Following): Follower {
    const entry: Entry = { listener, tags: new Set(), values: new Set(), topics: new Set() };
    this.entries.add(entry);
    listener.onLink?.(this.link, this.why);
    if (!this.databaseUp) listener.onDatabase?.(false);
    const follow = ({ tags = [], values = [], topics = [] }: Following): void => {
      const before = { ...entry };
      Object.assign(entry, { tags: new Set(tags), values: new Set(values), topics: new Set(topics) });
      this.tellStanding(entry, before);
      this.settle();
    };
    follow(first);
    const end = (): void => {
      this.entries.delete(entry);
      this.settle();
    };
    return { follow, end };
  }

  private tellStanding(entry: Entry, before: Entry): void {
    const { listener } = entry;
    const asked = [...entry.tags, ...entry.values].filter(
      (tag) => !before.tags.has(tag) && !before.values.has(tag),
    );
    const values = asked.flatMap((tag) => {
      const value = this.values.get(tag);
      return value === undefined ? [] : [[tag, value] as const];
    });
    if (values.length > 0) listener.onValues?.(new Map(values));
    const recent = this.recent.of([...entry.tags].filter((tag) => !before.tags.has(tag)));
    if (recent !== null) listener.onSamples?.(recent.samples, this.known, recent.sinceUs);
    const topics = [...entry.topics].filter((topic) => !before.topics.has(topic));
    if (topics.includes('changes') && this.counts.size > 0) listener.onCounts?.(this.counts);
    for (const topic of topics as LiveTopic[])
      if (this.states.has(topic)) listener.onState?.(topic, this.states.get(topic));
  }

  /** Once all who begin or end at the same time have done so. */
  private settle(): void {
    if (this.settling) return;
    this.settling = true;
    queueMicrotask(() => {
      this.settling = false;
      this.send();
    });
  }

  private wanted(): Wanted {
    const all = (part: 'tags' | 'values' | 'topics'): string[] =>
      [...new Set([...this.entries].flatMap((entry) => [...entry[part]]))].sort();
    const tags = all('tags');
    return { tags, values: all('values').filter((tag) => !tags.includes(tag)), topics: all('topics') };
  }

  private send(): void {
    const wanted = this.wanted();
    const text = JSON.stringify(wanted);
    if (text === this.sent) return;
    const before = this.sent === '' ? [] : (JSON.parse(this.sent) as Wanted).tags;
    this.sent = text;
    this.forget(wanted);
    if (wanted.tags.length + wanted.values.length + wanted.topics.length === 0) this.close();
    else if (this.socket === null && this.timer === undefined) this.connect();
    else if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(text);
    // What came in of the new ones is not behind the old place: it is asked for from the beginning.
    else if (wanted.tags.some((tag) => !before.includes(tag))) this.cursor = null;
  }

  private forget({ tags, values, topics }: Wanted): void {
    this.recent.keep(new Set(tags));
    for (const tag of this.values.keys())
      if (!tags.includes(tag) && !values.includes(tag)) this.values.delete(tag);
    if (!topics.includes('changes')) this.counts.clear();
    for (const topic of this.states.keys()) if (!topics.includes(topic)) this.states.delete(topic);
  }

  private connect(): void {
    this.release();
    if (this.link === 'refused') this.setLink('connecting');
    const socket = this.open();
    this.socket = socket;
    socket.onopen = () => {
      this.pause = FIRST_PAUSE_MS;
      socket.send(JSON.stringify({ ...this.wanted(), after: this.cursor }));
      this.watchOver(socket);
      this.setLink('open');
    };
    socket.onmessage = (event: MessageEvent<string>) => {
      this.heardMs = Date.now();
      if (socket === this.socket) this.dispatch(understood(event.data));
    };
    socket.onclose = () => {
      if (socket === this.socket) this.lose();
    };
  }

  private watchOver(socket: WebSocket): void {
    clearInterval(this.watch);
    this.heardMs = Date.now();
    this.watch = setInterval(() => {
      if (Date.now() - this.heardMs < SILENT_MS || socket !== this.socket) return;
      this.lose();
      socket.close();
    }, LOOK_MS);
  }

  private lose(): void {
    this.release();
    if (this.link === 'refused') return;
    this.setLink('lost');
    this.timer = setTimeout(() => this.connect(), this.pause);
    this.pause = Math.min(2 * this.pause, LONGEST_PAUSE_MS);
  }

  private release(): void {
    clearInterval(this.watch);
    clearTimeout(this.timer);
    this.timer = undefined;
    this.socket = null;
  }

  private close(): void {
    const { socket } = this;
    this.release();
    this.cursor = null;
    this.link = 'connecting';
    socket?.close();
  }

  private setLink(link: LinkState, why = ''): void {
    this.link = link;
    this.why = why;
    this.tell((listener) => listener.onLink?.(link, why));
  }

  private tell(what: (listener: LiveListener, entry: Entry) => void): void {
    for (const entry of this.entries) what(entry.listener, entry);
  }

  private dispatch(message: Message): void {
    switch (message.type) {
      case 'values':
        this.takeValues(message.values);
        break;
      case 'samples':
        this.cursor = message.cursor;
        this.known = {
          untilUs: Number(message.known_until_us),
          ahead: new Map(Object.entries(message.ahead).map(([tag, us]) => [tag, Number(us)])),
        };
        this.takeSamples(message.series.map(samplesIn), message.since ?? [], Number(message.since_us ?? 0));
        break;
      case 'resync':
        this.recent.resync();
        this.tell((listener, { tags }) => tags.size > 0 && listener.onResync?.());
        break;
      case 'database':
        this.databaseUp = message.up;
        this.tell((listener) => listener.onDatabase?.(message.up));
        break;
      case 'changed':
        for (const [topic, count] of Object.entries(message.counts)) this.counts.set(topic, count);
        this.tell((listener, { topics }) => {
          if (topics.has('changes')) listener.onCounts?.(new Map(Object.entries(message.counts)));
        });
        break;
      case 'state':
        this.states.set(message.of, message.state);
        this.tell((listener, { topics }) => {
          if (topics.has(message.of)) listener.onState?.(message.of, message.state);
        });
        break;
      case 'alive':
        break;
      case 'refused':
        this.refuse(message.detail, message.tags, message.topics);
    }
  }

  private takeValues(wire: readonly WireValue[]): void {
    const news = new Map(wire.map((x) => [x.tag, { tUs: Number(x.t_us), v: x.v, q: x.q }]));
    for (const [tag, value] of news) this.values.set(tag, value);
    this.tell((listener, { tags, values }) => {
      const own = new Map([...news].filter(([tag]) => tags.has(tag) || values.has(tag)));
      if (own.size > 0) listener.onValues?.(own);
    });
  }

  private takeSamples(series: readonly LiveSamples[], since: readonly string[], sinceUs: number): void {
    this.recent.add(series, since, sinceUs, this.known.untilUs);
    this.tell((listener, { tags }) => {
      if (tags.size === 0) return;
      const own = series.filter(({ tag }) => tags.has(tag));
      const first = since.some((tag) => tags.has(tag));
      listener.onSamples?.(own, this.known, first ? sinceUs : undefined);
    });
  }

  private refuse(why: string, tags: readonly string[] = [], topics: readonly string[] = []): void {
    if (tags.length > 0) {
      this.tell((listener, entry) => {
        const own = tags.filter((tag) => entry.tags.has(tag) || entry.values.has(tag));
        if (own.length > 0) listener.onRefused?.(own, why);
      });
    }
    if (tags.length + topics.length > 0) return;
    this.setLink('refused', why);
    const { socket } = this;
    this.release();
    socket?.close();
  }
}

export const live = new LiveConnection(() => {
  const url = new URL(served('/api/live'), window.location.href);
  url.protocol = url.protocol.replace('http', 'ws');
  return new WebSocket(url);
});
