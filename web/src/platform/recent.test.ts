import { describe, expect, it } from 'vitest';
import { SECOND } from '../domain/time';
import type { LiveSamples } from './liveMessages';
import { Recent } from './recent';

const some = (tag: string, ...t: number[]): LiveSamples => ({
  tag,
  archive: 1,
  t,
  v: t,
  q: t.map(() => 0),
});

describe('what came in of late', () => {
  it('is of followed tags, from when on nothing is missing', () => {
    const recent = new Recent();
    recent.add([some('a', 5), some('b', 5)], ['a'], 3, 6);
    expect(recent.of(['a', 'b'])).toEqual({ samples: [some('a', 5)], sinceUs: 3 });
    expect(recent.of(['b'])).toBeNull();
    recent.keep(new Set(['b']));
    expect(recent.of(['a'])).toBeNull();
  });

  it('is kept for a minute, and says so', () => {
    const recent = new Recent();
    recent.add([some('a', 5 * SECOND)], ['a'], 3 * SECOND, 6 * SECOND);
    recent.add([some('a', 69 * SECOND)], [], 0, 70 * SECOND);
    expect(recent.of(['a'])).toEqual({ samples: [some('a', 69 * SECOND)], sinceUs: 10 * SECOND });
  });

  it('begins anew after too much was missed', () => {
    const recent = new Recent();
    recent.add([some('a', 5)], ['a'], 3, 6);
    recent.resync();
    expect(recent.of(['a'])).toBeNull();
    recent.add([some('a', 8)], [], 0, 9);
    expect(recent.of(['a'])).toEqual({ samples: [some('a', 8)], sinceUs: 9 });
  });
});
