import { describe, expect, it } from 'vitest';
import {
  besidePens,
  exchanged,
  helpersOf,
  looksText,
  parseLooks,
  scaleOwner,
  withLook,
  withoutTags,
  type Looks,
} from './looks';

const [A, B, C, D] = ['a', 'b', 'c', 'd'].map((end) => `00000000-0000-0000-0000-00000000000${end}`) as [
  string,
  string,
  string,
  string,
];

describe('looks of pens', () => {
  it('travel in a link and come back', () => {
    const looks = {
      [A]: { low: 1, high: 9, colour: '#A23B7A', width: 3, draw: 'area' as const, guide: true, lines: [82] },
    };
    expect(parseLooks(looksText(looks))).toEqual(looks);
    expect(looksText({})).toBeNull();
    expect(looksText({ [A]: {} })).toBeNull();
  });

  it.each([
    null,
    '',
    'nonsense',
    '[]',
    '{"x": {"width": 2}}',
    `{"${A}": 5}`,
    `{"${A}": {"low": 9, "high": 1}}`,
    `{"${A}": {"low": 1}}`,
    `{"${A}": {"colour": "red", "width": 99, "draw": "frob", "lines": ["x"]}}`,
  ])('leave out what cannot be used: %s', (text) => {
    expect(parseLooks(text)).toEqual({});
  });

  it('change one field at a time, and follow the tag again', () => {
    const wide = withLook({}, A, { width: 3 });
    expect(wide).toEqual({ [A]: { width: 3 } });
    expect(withLook(wide, A, { draw: 'points' })).toEqual({ [A]: { width: 3, draw: 'points' } });
    expect(withLook(wide, A, { width: undefined })).toEqual({});
    expect(withLook({}, A, { draw: 'line' })).toEqual({});
  });

  it('may need other tags, each once, and none that is a pen itself', () => {
    const looks = { [A]: { lowTag: C, guides: [B, D] }, [B]: { guides: [D] }, [C]: { highTag: D } };
    expect(parseLooks(looksText(looks))).toEqual(looks);
    expect(helpersOf(looks, [A, B])).toEqual([C, D]);
    expect(helpersOf(looks, [B])).toEqual([D]);
  });

  it('share the scale of a pen that is there, not in a ring', () => {
    const looks = { [A]: { scaleOf: B }, [B]: { scaleOf: C }, [C]: { width: 3 } };
    expect(parseLooks(looksText(looks))).toEqual(looks);
    const all = (): boolean => true;
    expect([A, B, C].map((uid) => scaleOwner(looks, uid, all))).toEqual([C, C, C]);
    expect(scaleOwner(looks, A, (uid) => uid !== C)).toBe(B);
    const ring = { [A]: { scaleOf: B }, [B]: { scaleOf: A } };
    expect([A, B].map((uid) => scaleOwner(ring, uid, all))).toEqual([A, B]);
    expect(withoutTags(looks, [B])).toEqual({ [C]: { width: 3 } });
    expect(exchanged({ [A]: { scaleOf: B } }, new Map([[B, D]]))).toEqual({ [A]: { scaleOf: D } });
  });

  it('go over to other tags, with the tags that they need', () => {
    const looks = { [A]: { width: 3, highTag: C, guides: [C, D], log: true } };
    const sister = new Map([
      [A, B],
      [C, D],
    ]);
    expect(exchanged(looks, sister)).toEqual({ [B]: { width: 3, highTag: D, guides: [D], log: true } });
  });

  it('follows the tag that refreshes the display once, beside those of the scales', () => {
    const looks: Looks = { [A]: { lowTag: C } };
    expect(besidePens(looks, [A], D)).toEqual([C, D]);
    expect(besidePens(looks, [A], C)).toEqual([C]);
    expect(besidePens(looks, [A], A)).toEqual([C]);
    expect(besidePens(looks, [A], null)).toEqual([C]);
  });

  it('forgets tags that are gone, as pens and where looks speak of them', () => {
    const looks: Looks = { [A]: { lowTag: C, highTag: D, guides: [C, B], width: 3 }, [B]: { width: 2 } };
    expect(withoutTags(looks, [B, C])).toEqual({ [A]: { highTag: D, width: 3 } });
    expect(withoutTags(looks, [])).toEqual(looks);
  });
});
