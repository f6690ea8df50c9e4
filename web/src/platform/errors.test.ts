import { describe, expect, it } from 'vitest';
import { ApiError, translated, type FieldProblem } from './errors';

const REFUSED: FieldProblem = {
  field: 'tag',
  code: 'no-tag',
  parameters: { missing: '7' },
  problem: 'there is no tag 7',
  remedy: 'Take a uid from /api/tags.',
};

describe('what the server refuses', () => {
  it('is said in the words of another language, by its code and with its parameters', () => {
    const texts = { 'no-tag': 'manca il tag {missing}', 'no-tag.remedy': 'Scegline uno.' };
    expect(translated(REFUSED, texts)).toEqual({
      ...REFUSED,
      problem: 'manca il tag 7',
      remedy: 'Scegline uno.',
    });
    expect(translated(REFUSED, { 'no-tag.remedy': 'Scegline uno.' }).problem).toBe('there is no tag 7');
  });

  it('is said as the server says it where there are no other words', () => {
    expect(translated(REFUSED)).toBe(REFUSED);
    const body = { title: 'Not so', detail: 'tag: there is no tag 7. Take one.', errors: [REFUSED] };
    const error = ApiError.from(422, body);
    expect([error.detail, error.fields]).toEqual([body.detail, [REFUSED]]);
    expect(ApiError.from(500, null).detail).toBe('The server answered 500');
  });
});
