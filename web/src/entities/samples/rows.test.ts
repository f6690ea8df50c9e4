import { expect, it } from 'vitest';
import { tableJob } from './files';
import { samplesQuery, type Wish } from './rows';

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
  expect(tableJob({ ...WISH, value: '> 80 & x', order: 'largest' }, SPAN, 'xlsx')).toEqual({
    ...{ kind: 'export_table', tags: ['a', 'b'], start_us: '0', end_us: '100', form: 'xlsx', archives: {} },
    ...{ layout: 'time', step_us: 10, between: 'held', order: 'largest', value: '> 80 & x', quality: 'any' },
  });
});
