import { describe, expect, it } from 'vitest';
import type { LiveSamples } from '../../../platform/liveMessages';
import { withSamples } from './useLive';

const some = (t: number[]): LiveSamples => ({
  tag: 'a',
  archive: 1,
  t,
  v: t.map((us) => us * 10),
  q: t.map(() => 0),
});

describe('samples that come in', () => {
  it('are joined to those before', () => {
    const first = withSamples(new Map(), [some([1, 2])]);
    expect(withSamples(first, [some([3])]).get('a@1')).toEqual(some([1, 2, 3]));
    expect(first.get('a@1')).toEqual(some([1, 2]));
    expect(withSamples(first, [])).toBe(first);
  });

  it('are forgotten when every reader has them from history', () => {
    const tails = withSamples(new Map(), [some([1, 2, 3, 4])]);
    expect(withSamples(tails, [some([5])], 3).get('a@1')).toEqual(some([3, 4, 5]));
    expect(withSamples(tails, [some([5])], 99).get('a@1')).toEqual(some([5]));
  });

  it('are never more than can be drawn', () => {
    const many = some(Array.from({ length: 20_000 }, (_, i) => i));
    const found = withSamples(withSamples(new Map(), [many]), [some([20_000, 20_001])]);
    expect(found.get('a@1')?.t).toHaveLength(20_000);
    expect(found.get('a@1')?.t[0]).toBe(2);
  });
});
