import { expect, it } from 'vitest';
import { readState, withState } from './state';

const read = (text: string) => readState(new URLSearchParams(text));

it('what is usual does not stand in the address', () => {
  const state = read('');
  expect(state).toMatchObject({ layout: 'time', between: 'held', order: 'newest', quality: 'any' });
  expect(withState(new URLSearchParams('last=PT1H'), state).toString()).toBe('last=PT1H');
});

it('every choice comes back from the address', () => {
  const state = {
    ...read('tags=a,b'),
    layout: 'grid',
    stepUs: 60_000_000,
    between: 'interpolated',
    value: '> 80',
    quality: 'bad',
    marks: true,
  } as const;
  const params = withState(new URLSearchParams('from=x'), state);
  expect(params.get('from')).toBe('x');
  expect(readState(params)).toEqual(state);
  const ordered = { ...read('tags=a'), layout: 'sample', order: 'largest' } as const;
  expect(readState(withState(new URLSearchParams(), ordered))).toEqual(ordered);
});

it('what an address says wrongly is as if it was not there', () => {
  expect(read('rows=x&step=never&quality=fine&order=largest')).toEqual(read(''));
  expect(read('tags=a,,a,b').tags).toEqual(['a', 'b']);
  expect(read('step=P900D&rows=grid').stepUs).toBe(31 * 86_400_000_000);
});
