import { describe, expect, it } from 'vitest';
import { HOUR } from '../../../domain/time';
import { lastOf } from '../../../domain/windows';
import { addressOf, documentText, readDocument } from './document';
import { parseState } from './state';

const [A, B] = ['a', 'b'].map((end) => `00000000-0000-0000-0000-00000000000${end}`) as [string, string];
const LOOK = { [A]: { low: 1, high: 2 } };
const STRIPS = [{ title: 'Air', pens: [A] }, {}];
const ADDRESS = new URLSearchParams({
  tags: `${A},${B}`,
  window: 'this week',
  scale: 'fit',
  ghost: 'P1D',
  sheet: B,
  look: JSON.stringify(LOOK),
  strips: JSON.stringify(STRIPS),
});

describe('a trend as a document', () => {
  it('is JSON of a version, with the meaning of its window and without the sheet it is kept in', () => {
    expect(JSON.parse(documentText(parseState(ADDRESS)))).toEqual({
      version: 2,
      tags: `${A},${B}`,
      window: 'this week',
      scale: 'fit',
      ghost: 'P1D',
      look: LOOK,
      strips: STRIPS,
    });
  });

  it('gives back what was put in', () => {
    const state = { ...parseState(ADDRESS), sheet: null };
    expect(readDocument(documentText(state))).toEqual(state);
  });

  it('is read from sheets of version 1, which hold an address', () => {
    const old = `tags=${A},${B}&last=PT1H&scale=fit&look=${encodeURIComponent(JSON.stringify(LOOK))}`;
    expect(readDocument(old)).toEqual(parseState(new URLSearchParams(old)));
    expect(readDocument(old).window).toEqual(lastOf(HOUR));
  });

  it.each(['', '{', '{"version":2,"tags":5,"strips":"no list","window":["x"]}', '[]', 'null'])(
    'takes defaults for what cannot be used: %s',
    (text) => {
      expect(readDocument(text)).toEqual(parseState(new URLSearchParams()));
    },
  );

  it('opens under an address that names the sheet', () => {
    const address = new URLSearchParams(addressOf(documentText(parseState(ADDRESS)), B));
    expect(parseState(address)).toEqual(parseState(ADDRESS));
  });
});
