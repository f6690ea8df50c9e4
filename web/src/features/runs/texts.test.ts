import { describe, expect, it } from 'vitest';
import { attributeRows, attributeText, runLength, trendLink } from './texts';
import type { Run } from '../../entities/runs';

const attribute = { tag: 'a', name: 'Energy meter', unit: 'kWh', decimals: 0, value: 12.4, quality: 0 };
const run: Run = {
  uid: 'r',
  name: 'Line 1 lot 4711',
  origin: 'change',
  rule: 'Line 1 lot',
  start_us: '1000000000',
  end_us: '1090000000',
  cut: false,
  start_attributes: [attribute, { ...attribute, tag: 'b', name: 'Moisture', value: null, quality: 0x809b }],
  end_attributes: [{ ...attribute, value: 20 }],
  person: '',
};

describe('runs in words', () => {
  it('shows a attribute with its decimals and unit, and says what was Bad', () => {
    expect(attributeText(attribute)).toBe('12 kWh');
    expect(attributeText({ ...attribute, value: null })).toBe('Bad');
  });

  it('puts the attributes of both ends beside each other', () => {
    expect(attributeRows(run)).toEqual([
      { name: 'Energy meter', start: '12 kWh', end: '20 kWh' },
      { name: 'Moisture', start: 'Bad', end: '' },
    ]);
  });

  it('measures a run that lasts until now', () => {
    expect(runLength(run, 0)).toBe('1 min 30 s');
    expect(runLength({ ...run, end_us: null }, 1_060_000_000)).toBe('1 min');
  });

  it('opens the trend of its tags over its very stretch', () => {
    const link = new URLSearchParams(trendLink(run, 0).split('?')[1]);
    expect(link.get('from')).toBe('1970-01-01T00:16:40.000000Z');
    expect(link.get('to')).toBe('1970-01-01T00:18:10.000000Z');
    expect(link.get('tags')).toBe('a,b');
  });
});
