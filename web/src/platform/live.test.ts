import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { LiveConnection } from './live';
import type { LiveListener, LiveSamples } from './liveMessages';

/** A WebSocket that a test plays the server of. */
class Socket {
  readyState: number = WebSocket.CONNECTING;
  onopen: (() => void) | null = null;
  onmessage: ((event: { data: string }) => void) | null = null;
  onclose: (() => void) | null = null;
  readonly heard: unknown[] = [];

  send(text: string): void {
    this.heard.push(JSON.parse(text));
  }

  accept(): void {
    this.readyState = WebSocket.OPEN;
    this.onopen?.();
  }

  say(...messages: object[]): void {
    for (const message of messages) this.onmessage?.({ data: JSON.stringify(message) });
  }

  close(): void {
    if (this.readyState === WebSocket.CLOSED) return;
    this.readyState = WebSocket.CLOSED;
    this.onclose?.();
  }
}

const samples = (cursor: string, knownUs: number, series: object[], more: object = {}): object => ({
  type: 'samples',
  cursor,
  known_until_us: String(knownUs),
  ahead: {},
  series,
  ...more,
});
const one = (tag: string, t: number): object => ({ tag, archive: 1, t_us: [String(t)], v: [t], q: [0] });

describe('the live connection', () => {
  let sockets: Socket[];
  let live: LiveConnection;
  const newest = (): Socket => sockets.at(-1) ?? new Socket();

  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal('WebSocket', { CONNECTING: 0, OPEN: 1, CLOSED: 3 });
    sockets = [];
    live = new LiveConnection(() => {
      const socket = new Socket();
      sockets.push(socket);
      return socket as unknown as WebSocket;
    });
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  const follow = async (
    tags: string[],
    listener: LiveListener = {},
    topics: ('changes' | 'health')[] = [],
  ): Promise<ReturnType<LiveConnection['follow']>> => {
    const follower = live.follow(listener, { tags, topics });
    await vi.advanceTimersByTimeAsync(0);
    return follower;
  };

  it('is one for all, asks for each thing once, and ends with the last follower', async () => {
    const first = await follow(['a', 'b']);
    newest().accept();
    const second = await follow(['b', 'c'], {}, ['health']);
    expect(sockets).toHaveLength(1);
    expect(newest().heard).toEqual([
      { tags: ['a', 'b'], values: [], topics: [], after: null },
      { tags: ['a', 'b', 'c'], values: [], topics: ['health'] },
    ]);
    first.end();
    await vi.advanceTimersByTimeAsync(0);
    expect(newest().heard.at(-1)).toEqual({ tags: ['b', 'c'], values: [], topics: ['health'] });
    second.end();
    await vi.advanceTimersByTimeAsync(0);
    expect(newest().readyState).toBe(WebSocket.CLOSED);
  });

  it('says nothing anew when one takes the place of another at the same time', async () => {
    const first = await follow(['a']);
    newest().accept();
    first.end();
    await follow(['a']);
    expect(newest().heard).toHaveLength(1);
  });

  it('tells each follower of its own tags alone', async () => {
    const heard: string[] = [];
    const listen = (name: string): LiveListener => ({
      onValues: (values) => heard.push(`${name} ${[...values.keys()].join()}`),
      onSamples: (some) => heard.push(`${name} ${some.map(({ tag }) => tag).join()}`),
    });
    await follow(['a'], listen('one'));
    await follow(['b'], listen('two'));
    newest().accept();
    newest().say(
      { type: 'values', values: [{ tag: 'a', t_us: '1', v: 1, q: 0 }] },
      samples('1:1', 5, [one('b', 4)]),
    );
    expect(heard).toEqual(['one a', 'one ', 'two b']);
  });

  it('tells who joins later what is known already, and from when on nothing is missing', async () => {
    await follow(['a'], {}, ['changes', 'health']);
    newest().accept();
    newest().say(
      { type: 'values', values: [{ tag: 'a', t_us: '7', v: 2, q: 0 }] },
      { type: 'changed', counts: { runs: '3' } },
      { type: 'state', of: 'health', state: { status: 'ok' } },
      samples('1:1', 5, [one('a', 4)], { since: ['a'], since_us: '2' }),
      samples('1:2', 7, [one('a', 6)]),
    );
    const heard: unknown[] = [];
    const some = (found: readonly LiveSamples[]): number[] => found.flatMap(({ t }) => t);
    await follow(
      ['a'],
      {
        onValues: (values) => heard.push(values.get('a')?.v),
        onSamples: (found, known, sinceUs) => heard.push([some(found), known.untilUs, sinceUs]),
        onCounts: (counts) => heard.push([...counts]),
        onState: (_, state) => heard.push(state),
      },
      ['changes', 'health'],
    );
    expect(heard).toEqual([2, [[4, 6], 7, 2], [['runs', '3']], { status: 'ok' }]);
    expect(newest().heard).toHaveLength(1);
  });

  it('connects anew and goes on behind what it has; new tags meanwhile are asked for from the beginning', async () => {
    const links: string[] = [];
    const follower = await follow(['a'], { onLink: (link) => links.push(link) });
    newest().accept();
    newest().say(samples('1:8', 5, []));
    newest().close();
    await vi.advanceTimersByTimeAsync(300);
    newest().accept();
    expect(newest().heard).toEqual([{ tags: ['a'], values: [], topics: [], after: '1:8' }]);
    newest().close();
    follower.follow({ tags: ['a', 'b'] });
    await vi.advanceTimersByTimeAsync(300);
    newest().accept();
    expect(newest().heard).toEqual([{ tags: ['a', 'b'], values: [], topics: [], after: null }]);
    expect(links).toEqual(['connecting', 'open', 'lost', 'open', 'lost', 'open']);
  });

  it('takes a silent connection for lost; a sign of life is enough', async () => {
    await follow(['a']);
    newest().accept();
    for (let i = 0; i < 6; i++) {
      await vi.advanceTimersByTimeAsync(5_000);
      newest().say({ type: 'alive' });
    }
    expect(sockets).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(25_000);
    expect(sockets.length).toBeGreaterThan(1);
    expect(sockets[0]?.readyState).toBe(WebSocket.CLOSED);
  });

  it('goes on with the rest when a tag is refused', async () => {
    const refused: string[] = [];
    await follow(['a'], { onRefused: (tags) => refused.push(...tags) });
    await follow(['b'], { onRefused: () => refused.push('wrong') });
    newest().accept();
    newest().say({ type: 'refused', detail: 'There is no tag a.', tags: ['a'] });
    expect(refused).toEqual(['a']);
    expect(live.link).toBe('open');
  });

  it('does not try again when the server does not understand the page, until something else is followed', async () => {
    const links: string[] = [];
    await follow(['a'], { onLink: (link, why) => links.push(`${link} ${why}`) });
    newest().accept();
    newest().say({ type: 'refused', detail: 'no.' });
    await vi.advanceTimersByTimeAsync(60_000);
    expect(sockets).toHaveLength(1);
    expect(links.at(-1)).toBe('refused no.');
    await follow(['b']);
    newest().accept();
    expect(links.at(-1)).toBe('open ');
  });

  it('is read anew by each of its followers after too much was missed', async () => {
    const heard: string[] = [];
    await follow(['a'], { onResync: () => heard.push('one') });
    await follow([], { onResync: () => heard.push('without tags') }, ['health']);
    newest().accept();
    newest().say({ type: 'resync', cursor: null });
    expect(heard).toEqual(['one']);
  });
});
