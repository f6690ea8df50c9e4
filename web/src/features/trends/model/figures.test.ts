import { describe, expect, it } from 'vitest';
import { tableText } from './figuresText';
import type { PenCard } from '../drawer/PenCards';
import { COLUMNS, figureText, goodText, sharedGap, type Figure } from '../../../entities/figureTexts';

function figure(stat: string, value: Figure['values'], more: Partial<Figure> = {}): Figure {
  return { stat, unit: '°C', values: value, tables: [], path: null, refused: null, ...more } as Figure;
}

function value(v: number | boolean | null, quality = 'Good', good = 100): Figure['values'] {
  const when = { start_us: '0', end_us: '1', time_us: '0' };
  return [{ ...when, value: v, quality, status_code: '00000000', good, doubtful: good < 99 }];
}

describe('a figure', () => {
  it('has the digits of its tag, a mean two more', () => {
    expect(figureText(figure('Minimum', value(61.25)), 1).value).toBe('61.3 °C');
    expect(figureText(figure('TimeAverage2', value(61.256)), 1).value).toBe('61.256 °C');
    expect(figureText(figure('Count', value(600), { unit: '' }), 1).value).toBe('600');
  });

  it('says when it is doubtful, refused, not there, or not read yet', () => {
    expect(figureText(figure('Minimum', value(1, 'Uncertain', 81)), 0)).toEqual({
      value: '1 °C ?',
      note: 'Uncertain, Good for 81 % of the time',
    });
    const told = { field: 'stat', problem: 'a contact has no median', remedy: '' };
    const refused = { ...told, code: 'no-median', parameters: {} };
    expect(figureText(figure('Median', [], { refused }), 1)).toEqual({
      value: '',
      note: 'a contact has no median',
    });
    expect(figureText(figure('Minimum', value(null)), 1).value).toBe('');
    expect(figureText(undefined, 1).note).toBe('being read');
  });

  it('is not doubtful for a moment that is missing, but the share is said', () => {
    expect(figureText(figure('TimeAverage2', value(12.5, 'Uncertain', 99.97)), 1)).toEqual({
      value: '12.500 °C',
      note: 'Uncertain, Good for 99.97 % of the time',
    });
    expect(goodText(99.9999)).toBe('Good for 99.99 % of the time');
    expect(goodText(100)).toBe('Good for 100 % of the time');
  });

  it('of a contact is a state or a time', () => {
    expect(figureText(figure('Maximum', value(true), { unit: '' }), 0).value).toBe('on');
    expect(figureText(figure('DurationInStateNonZero', value(90_500), { unit: '' }), 0).value).toBe('90.5 s');
  });
});

it('the table for a spreadsheet has full digits', () => {
  const card = { trace: { tag: { name: 'Line 1, press', unit: 'bar', decimals: 1 } } } as unknown as PenCard;
  const columns = COLUMNS.filter((one) => ['Minimum', 'Median'].includes(one.stat));
  expect(tableText([{ card, note: '', figures: [figure('Minimum', value(61.254321))] }], columns)).toBe(
    'Pen\tUnit\tMin\tMedian\r\n"Line 1, press"\tbar\t61.254321\t',
  );
});

describe('a gap that all figures share', () => {
  const cell = (good: number | null, doubtful = true): { good: number | null; doubtful: boolean } => ({
    good,
    doubtful,
  });
  it('is the share that all have alike', () => {
    expect(sharedGap([cell(90), cell(90.2), cell(90.1), cell(null)])).toBe(90);
  });
  it('is none where figures differ, are few, or one is without doubt', () => {
    expect(sharedGap([cell(90), cell(80), cell(90)])).toBeNull();
    expect(sharedGap([cell(90), cell(90)])).toBeNull();
    expect(sharedGap([cell(90), cell(90), cell(90, false)])).toBeNull();
  });
});
