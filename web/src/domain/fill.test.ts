import { IntlMessageFormat } from 'intl-messageformat';
import * as common from 'texts/common.json';
import { describe, expect, it } from 'vitest';
import { fill } from './fill';

describe('a text of the catalogue with its values', () => {
  it('has each value in its place, also twice', () => {
    expect(fill('{low} to {high}, {low} again', { low: 1, high: '2.50' })).toBe('1 to 2.50, 1 again');
  });

  it('keeps a name that has no value as it is written', () => {
    expect(fill('{folder} and {name}', { name: 'Zone 1' })).toBe('{folder} and Zone 1');
  });

  it('puts a value in that looks like a place, and reads no further', () => {
    expect(fill('{name} is removed.', { name: '{count}', count: 3 })).toBe('{count} is removed.');
  });

  it.each([
    [0, '0 tags of Line 1'],
    [1, '1 tag of Line 1'],
    [2, '2 tags of Line 1'],
    [1.5, '1.5 tags of Line 1'],
  ])('takes the form that goes with %s', (count, text) => {
    const form = '{count, plural, one {# tag of {line}} other {# tags of {line}}}';
    expect(fill(form, { count, line: 'Line 1' })).toBe(text);
  });

  it('holds a number sign and a dollar as they are', () => {
    expect(fill('No. # {name}', { name: '$1 $&' })).toBe('No. # $1 $&');
  });

  it('stands in a file by key', () => {
    expect(fill(common.lowToHigh, { low: 1, high: 2 })).toBe('1 to 2');
  });
});

/** What a module cannot export by name. */
const RESERVED = new Set(
  [
    'break case catch class const continue debugger default delete do else enum export extends false finally for',
    'function if import in instanceof new null return super switch this throw true try typeof var void while with',
    'await implements interface let package private protected public static yield arguments eval',
  ].flatMap((line) => line.split(' ')),
);

const files = import.meta.glob<Record<string, string>>('../texts/en/*.json', {
  eager: true,
  import: 'default',
});
const places = (text: string): string[] => [...text.matchAll(/\{(\w+)[,}]/g)].map((found) => found[1] ?? '');

describe.each(Object.entries(files))('%s', (_, texts) => {
  const filled = Object.entries(texts).filter(([, text]) => places(text).length > 0 && !text.includes('{n:'));

  // Reference: intl-messageformat, which has the whole of ICU MessageFormat.
  it('says what a reference says, for every number', () => {
    for (const [, text] of filled)
      for (const count of [0, 1, 2, 5, 21, 1.5]) {
        const values = Object.fromEntries(places(text).map((name) => [name, count]));
        const expected = new IntlMessageFormat(text, 'en').format(values);
        expect(fill(text, values)).toBe(expected);
      }
  });

  it('has keys that a program can name', () => {
    expect(Object.keys(texts).filter((key) => !/^[a-z][A-Za-z0-9]*$/.test(key) || RESERVED.has(key))).toEqual(
      [],
    );
  });

  it('has no text twice', () => {
    expect(new Set(Object.values(texts)).size).toBe(Object.keys(texts).length);
  });
});
