import { expect, it } from 'vitest';
import { samplesFile, samplesQuery, type Wish } from './rows';

const WISH: Wish = {
  tags: ['a', 'b'],
  layout: 'time',
  stepUs: 10,
  between: 'held',
  order: 'newest',
  value: '',
  quality: 'any',
};
const SPAN = { startUs: 0.5, endUs: 99.5 };

it('rows that were asked for before stand in only where their cells are those of the same tags', () => {
  const before = { pages: [], pageParams: [] };
  const shown = (wish: Wish): unknown => {
    const { queryKey, placeholderData } = samplesQuery(wish, SPAN, 'x');
    const stand = placeholderData as (data: unknown, query: unknown) => unknown;
    expect(stand(before, { queryKey })).toBe(before);
    return stand(before, { queryKey: samplesQuery(WISH, SPAN, 'x').queryKey });
  };
  expect(shown({ ...WISH, value: '> 80' })).toBe(before);
  expect(shown({ ...WISH, tags: ['b'] })).toBeUndefined();
  expect(shown({ ...WISH, tags: ['b', 'a'] })).toBeUndefined();
  expect(shown({ ...WISH, layout: 'sample' })).toBeUndefined();
});

it('a file is asked for with all that is chosen', () => {
  const url = new URL(samplesFile({ ...WISH, value: '> 80 & x' }, SPAN, 'xlsx'), 'http://plant.local');
  expect(url.searchParams.getAll('tag')).toEqual(['a', 'b']);
  expect(Object.fromEntries(url.searchParams)).toMatchObject({
    ...{ start: '0', end: '100', form: 'xlsx', value: '> 80 & x' },
    ...{ layout: 'time', step_us: '10', quality: 'any' },
  });
});
