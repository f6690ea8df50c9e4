import { describe, expect, it } from 'vitest';
import { changesText, countOf, stepText } from './changeTexts';

describe('a step of changes', () => {
  const step = {
    parts: [
      { kind: 'tag', action: 'changed', count: 120 },
      { kind: 'logger', action: 'removed', count: 1 },
    ],
  };

  it('says how many of what', () => {
    expect(stepText(step)).toBe('120 tags changed, logger removed');
    expect(countOf(step)).toBe(121);
    expect(stepText({ parts: [{ kind: 'equipment_class', action: 'added', count: 2 }] })).toBe(
      '2 equipment classes added',
    );
  });

  it('says what was before and is after', () => {
    const before = { unit: '°C', decimals: 1, equipment: '', name: 'a', rule: { width: 1 } };
    expect(changesText({ before, after: { ...before, unit: 'K' } })).toBe('unit °C → K');
    expect(changesText({ before, after: { ...before, equipment: 'Line 5' } })).toBe(
      'equipment nothing → Line 5',
    );
    const after = { ...before, unit: 'K', decimals: 2, name: 'b', rule: { width: 2 } };
    expect(changesText({ before, after })).toBe('unit °C → K; decimals 1 → 2; name a → b; 1 more');
  });

  it('says nothing of what came or went', () => {
    expect(changesText({ before: null, after: { unit: 'K' } })).toBe('');
  });
});
