import { describe, expect, it } from 'vitest';
import { displayText, parseDisplay, USUAL } from './display';

describe('how a sheet is shown', () => {
  it('travels only as far as it is not as usual', () => {
    expect(displayText(USUAL)).toBeNull();
    expect(displayText({ ...USUAL, grid: false })).toBe('{"grid":false}');
  });

  it.each(['', '7', 'null', '[]', '{', '{"times":"never","card":"scale","grid":"no","area":1}'])(
    'is as usual where a link says %s',
    (text) => {
      expect(parseDisplay(text)).toEqual(USUAL);
    },
  );

  it('has each part of a card once, in the order that was given', () => {
    expect(parseDisplay('{"card":["archive","x","scale","archive"]}').card).toEqual(['archive', 'scale']);
    expect(parseDisplay('{"card":[]}').card).toEqual([]);
  });
});
