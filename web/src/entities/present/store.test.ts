import { describe, expect, it, vi } from 'vitest';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Following, LiveListener } from '../../platform/liveMessages';
import type { Curve } from '../curves';
import { NOTHING, TRAIL_US, type Present } from './state';
import { createPresentStore, type PresentStore } from './store';

const NOW = 1_800_000_000_000_000;

function curveOf(tag: string): Curve {
  return {
    details: { tag } as Curve['details'],
    t: Float64Array.of(NOW - 2e6, NOW - 1e6),
    v: Float64Array.of(1, 2),
    q: Uint16Array.of(0, 0),
  };
}

interface Stand {
  store: PresentStore;
  values: StoreApi<Present>;
  listener: () => LiveListener;
  followed: Following[];
  asked: string[][];
  end: ReturnType<typeof vi.fn<() => void>>;
}

function stand(
  read = (tags: readonly string[]): Promise<Curve[]> => Promise.resolve(tags.map(curveOf)),
): Stand {
  let listener: LiveListener = {};
  const followed: Following[] = [];
  const asked: string[][] = [];
  const end = vi.fn<() => void>();
  const values = createStore<Present>(() => NOTHING);
  const store = createPresentStore({
    values,
    connection: {
      follow: (mine, first) => {
        listener = mine;
        followed.push(first);
        return { follow: (more) => followed.push(more), end };
      },
    },
    read: ({ tags, startUs, endUs }) => {
      expect(endUs - startUs).toBe(TRAIL_US);
      asked.push([...tags]);
      return read(tags);
    },
    nowUs: () => NOW,
  });
  return { store, values, listener: () => listener, followed, asked, end };
}

const settled = (): Promise<void> => new Promise((done) => setTimeout(done));

describe('present values', () => {
  it('have a course from history and what came in meanwhile', async () => {
    const { store, values, listener } = stand();
    store.follow(['a', 'b']);
    listener().onValues?.(new Map([['a', { tUs: NOW, v: 3, q: 0 }]]));
    await settled();
    const { trails, values: now } = values.getState();
    expect(now.get('a')?.v).toBe(3);
    expect(trails.get('a')).toEqual({ t: [NOW - 2e6, NOW - 1e6, NOW], v: [1, 2, 3] });
    expect(trails.get('b')?.v).toEqual([1, 2]);
  });

  it('are followed anew as one scrolls; what is known is not asked for again', async () => {
    const { store, values, followed, asked, end } = stand();
    store.follow(['a', 'b']);
    await settled();
    store.follow(['b', 'c']);
    await settled();
    expect(followed).toEqual([{ values: ['a', 'b'] }, { values: ['b', 'c'] }]);
    expect(asked).toEqual([['a', 'b'], ['c']]);
    expect([...values.getState().trails.keys()].sort()).toEqual(['b', 'c']);
    store.end();
    expect(end).toHaveBeenCalledOnce();
  });

  it('are read of whoever is still looked at when scrolling broke off the reading', async () => {
    const { store, values, listener, asked } = stand();
    store.follow(['a']);
    listener().onValues?.(new Map([['a', { tUs: NOW, v: 3, q: 0 }]]));
    store.follow(['a', 'b']);
    await settled();
    expect(asked).toEqual([['a'], ['a', 'b']]);
    expect(values.getState().trails.get('a')?.v).toEqual([1, 2, 3]);
  });

  it('are read again after a break, and a Bad one breaks the line', async () => {
    const { store, values, listener, asked } = stand();
    store.follow(['a']);
    await settled();
    listener().onLink?.('lost', '');
    listener().onLink?.('open', '');
    await settled();
    expect(asked).toEqual([['a'], ['a']]);
    listener().onValues?.(new Map([['a', { tUs: NOW, v: null, q: 0x8000 }]]));
    expect(values.getState().trails.get('a')?.v.at(-1)).toBeNaN();
  });

  it('say why their course could not be read', async () => {
    const { store, values } = stand(() => Promise.reject(new Error('The database does not answer.')));
    store.follow(['a']);
    await settled();
    expect(values.getState().problem).toContain('The database does not answer.');
  });
});
