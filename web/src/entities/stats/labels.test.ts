import { describe, expect, it } from 'vitest';
import { figureIn } from '../figures';
import { figureLine, GROUPS, numberText, statLabel, statProblem, unitShown } from './labels';

describe('a figure in one line', () => {
  it.each([
    ['Travel', 'Travel', {}],
    ['Percentile 95', 'Percentile 95', { percent: 95 }],
    ['Percentile 2.5 samples', 'Percentile 2.5 of samples', { percent: 2.5, weight: 'samples' }],
    ['Integral hour', 'Integral over hours', { base: 'hour' }],
    ['Slope minute', 'Slope per minute', { base: 'minute' }],
    ['TimeInState -2', 'Time in state -2', { state: -2 }],
  ])('%s is sent with its options and has a name', (line, label, options) => {
    expect(figureIn(line)).toMatchObject(options);
    expect(figureLine(figureIn(line))).toBe(line);
    expect(statLabel(line)).toBe(label);
  });

  it('says what is wrong with an option', () => {
    expect(statProblem('Percentile 95')).toBe('');
    expect(statProblem('Percentile 950')).not.toBe('');
    expect(statProblem('Percentile')).not.toBe('');
    expect(statProblem('TimeInState 1.5')).not.toBe('');
    expect(statProblem('Median')).toBe('');
  });

  it('is shown in its digits, times in seconds', () => {
    expect(numberText(1500, 'DurationBad', 2)).toBe('1.5');
    expect(unitShown('DurationBad', 'ms')).toBe('s');
    expect(numberText(12, 'TimeInState 2', 0)).toBe('12.0');
    expect(numberText(3, 'FallingEdges', 2)).toBe('3');
    expect(numberText(1.23456, 'Percentile 95', 2)).toBe('1.2346');
    expect(numberText(1.23456, 'StartBound', 2)).toBe('1.23');
  });

  it('is offered once', () => {
    const all = GROUPS.flatMap(({ statistics }) => statistics.map(({ stat }) => stat));
    expect(new Set(all).size).toBe(all.length);
  });
});
