import { describe, expect, it } from 'vitest';
import { seenOf, wrote } from './written';

describe('an address that is seen', () => {
  it('is no link while a newer one that was written is under way', () => {
    expect(seenOf(['a', 'b', 'c'], 'b')).toEqual(['b', 'c']);
    expect(seenOf(['b', 'c'], 'c')).toEqual(['c']);
  });
  it('may skip some that were written', () => {
    expect(seenOf(['a', 'b', 'c'], 'c')).toEqual(['c']);
  });
  it('is a link when nobody here has written it, or what was written is over', () => {
    expect(seenOf(['a', 'b'], 'x')).toBeNull();
    expect(seenOf(['b'], 'a')).toBeNull();
  });
});

describe('an address that is written', () => {
  it('is under way once', () => {
    expect(wrote(['a'], 'b')).toEqual(['a', 'b']);
    expect(wrote(['a', 'b'], 'b')).toEqual(['a', 'b']);
    expect(wrote(['a', 'b'], 'a')).toEqual(['a', 'b', 'a']);
  });
});
