import { describe, expect, it } from 'vitest';
import type { SampleGap, SampleRow } from '../../entities/samples/rows';
import { cellText, gapText, linesOf, momentOf, scalarText, stampOf } from './lines';

const row = (t: number, tag: string | null = 'a'): SampleRow => ({
  t_us: String(t),
  tag,
  cells: [{ value: 1, quality: 0, quality_text: 'Good', how: 'recorded' }],
});
const gap = (start: number, end: number, tag = 'a'): SampleGap => ({
  start_us: String(start),
  end_us: String(end),
  reason: 'recorder_down',
  detail: '',
  tag,
});
const FLOAT = { value_type: 'float', decimals: 1, states: {} };

describe('lines', () => {
  it('hold each gap above the sample that it follows', () => {
    const lines = linesOf([row(50), row(40), row(10)], [gap(11, 40), gap(51, 60)], 0);
    expect(lines.map(({ key }) => key)).toEqual(['gap a 51', '50 a', '40 a', 'gap a 11', '10 a']);
  });

  it('end where the window begins, but for a gap that reaches into it', () => {
    const lines = linesOf([row(50), row(20)], [gap(5, 45), gap(1, 4)], 30);
    expect(lines.map(({ key }) => key)).toEqual(['50 a', 'gap a 5']);
  });

  it('name a gap once that lasts from what was read before into what is new', () => {
    const keys = linesOf([row(50)], [gap(5, 60), gap(5, 45)], 0).map(({ key }) => key);
    expect(keys).toEqual(['50 a', 'gap a 5']);
  });

  it('are told apart where tags have a sample at one time', () => {
    const keys = linesOf([row(5, 'a'), row(5, 'b'), row(5, null)], [], 0).map(({ key }) => key);
    expect(new Set(keys).size).toBe(3);
  });
});

describe('moments', () => {
  it('are as exact as they were recorded', () => {
    const at = Date.UTC(2026, 10, 23, 13, 5, 9) * 1000;
    expect(momentOf(at, 'Europe/Rome')).toBe('Mon 23 Nov 14:05:09');
    expect(momentOf(at + 250_000, 'Europe/Rome')).toBe('Mon 23 Nov 14:05:09.250');
    expect(stampOf(at + 7, 'Europe/Rome')).toBe('2026-11-23 14:05:09.000007');
    expect(momentOf(at + 7, 'Europe/Rome')).toBe('Mon 23 Nov 14:05:09.000007');
  });
});

describe('cells', () => {
  const cell = (value: number | boolean | string | null, quality = 0, how = 'recorded') => ({
    value,
    quality,
    how,
    quality_text: '',
  });

  it('show values with the decimals of the tag, names for states, texts as they are', () => {
    expect(cellText(cell(12.345), FLOAT)).toBe('12.3');
    expect(cellText(cell(2), { ...FLOAT, value_type: 'state', states: { 2: 'Runs' } })).toBe('Runs');
    expect(cellText(cell(true), { ...FLOAT, value_type: 'boolean', states: { 1: 'open' } })).toBe('open');
    expect(cellText(cell(false), { ...FLOAT, value_type: 'boolean' })).toBe('off');
    expect(cellText(cell('1'), { ...FLOAT, value_type: 'text', states: { 1: 'no' } })).toBe('1');
    // Beyond 2^53 the server sends text, so that no digit is lost.
    expect(scalarText('9007199254740993', { ...FLOAT, value_type: 'integer' })).toBe('9007199254740993');
  });

  it('say that a value is bad, uncertain or missing', () => {
    expect(cellText(cell(null, 0x8031), FLOAT)).toBe('bad');
    expect(cellText(cell(null, 0x809b, 'none'), FLOAT)).toBe('–');
    expect(cellText(cell(1, 0x4000), FLOAT)).toBe('1.0 ?');
  });
});

it('a gap says for how long and why', () => {
  expect(gapText(gap(0, 300_000_000))).toBe('No samples for 5 min: The recorder was down');
});
