import { describe, expect, it } from 'vitest';
import type { Edge } from '../model/state';
import { fires } from './useRefreshed';

describe('a tag that moves a window', () => {
  it.each<[Edge | undefined, [boolean, boolean, boolean, boolean]]>([
    [undefined, [true, false, true, true]],
    ['rising', [true, false, true, false]],
    ['falling', [false, true, false, true]],
    ['either', [true, true, true, true]],
  ])('fires at %s edges: a contact that closes, opens; a number that grows, falls', (edge, wanted) => {
    const changes = [
      [false, true],
      [true, false],
      [1, 2],
      [2, 1],
    ] as const;
    expect(changes.map(([before, now]) => fires(before, now, edge))).toEqual(wanted);
  });

  it('never does at the first value, at none, or at the same one', () => {
    expect(fires(undefined, true, 'rising')).toBe(false);
    expect(fires(true, null, 'either')).toBe(false);
    expect(fires(3, 3, 'either')).toBe(false);
  });
});
