import { describe, expect, it } from 'vitest';
import { merge } from './merge';

const BASE = { name: 'Line 1', port: 502, tags: ['a'] };

describe('what was typed, put onto a version that somebody else saved', () => {
  it('takes what the other changed where nothing was typed', () => {
    const found = merge(BASE, { ...BASE, name: 'Line 1a' }, { ...BASE, port: 503, tags: ['a', 'b'] });
    expect(found).toEqual({ form: { name: 'Line 1a', port: 503, tags: ['a', 'b'] }, clashes: [] });
  });

  it('keeps what was typed and says where the other has typed something else', () => {
    const found = merge(BASE, { ...BASE, port: 504 }, { ...BASE, port: 503 });
    expect(found.form.port).toBe(504);
    expect(found.clashes).toEqual([{ field: 'port', mine: 504, theirs: 503 }]);
  });

  it('has nothing to choose where both did the same', () => {
    const both = { ...BASE, tags: ['c'] };
    expect(merge(BASE, both, { ...both, tags: ['c'] })).toEqual({ form: both, clashes: [] });
  });
});
