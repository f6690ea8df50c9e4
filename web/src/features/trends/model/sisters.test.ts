import { describe, expect, it } from 'vitest';
import { sisterOf } from './sisters';
import { parseState } from './state';

const [one, two, its, other] = [1, 2, 3, 4].map((n) => `00000000-0000-0000-0000-00000000000${n}`);

describe('the same trend for other equipment', () => {
  it('has the sisters of its pens, and is no longer the sheet that was opened', () => {
    const state = parseState(new URLSearchParams({ tags: `${one},${two}`, sheet: other ?? '' }));
    const found = { ...state, ...sisterOf(state, [one ?? '', two ?? ''], new Map([[one ?? '', its ?? '']])) };
    expect(state.sheet).toBe(other);
    expect(found.tags).toEqual([its]);
    expect(found.sheet).toBeNull();
  });

  it('names the other equipment in the names that were given to pens', () => {
    const [from, to] = [one ?? '', its ?? ''];
    const look = JSON.stringify({ [from]: { legend: 'Line 2 air' } });
    const state = parseState(new URLSearchParams({ tags: from, look }));
    const found = sisterOf(state, [from], new Map([[from, to]]), ['Line 2', 'Line 4']);
    expect(found.looks).toEqual({ [to]: { legend: 'Line 4 air' } });
  });
});
