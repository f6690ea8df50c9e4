import { describe, expect, it } from 'vitest';
import { freshNumber, readStates, stateProblem, writeStates } from './states';

describe('names of values', () => {
  it('are lines in the order of their numbers, and what the server keeps again', () => {
    const text = '{"0": "Idle", "1": "Runs", "10": "Says \\"no\\""}';
    const lines = readStates('{"10": "Says \\"no\\"", "0": "Idle", "1": "Runs"}');
    expect(lines.map(({ number }) => number)).toEqual(['0', '1', '10']);
    expect(writeStates(lines)).toBe(text);
    expect([readStates(''), readStates('nonsense'), writeStates([])]).toEqual([[], [], '']);
  });

  it('say which number cannot be used, and lose none that is typed twice', () => {
    const lines = ['0', 'x', '0', '1.5', '-3'].map((number) => ({ number, name: 'A' }));
    expect(lines.map((_, at) => stateProblem(lines, at) === undefined)).toEqual([
      ...[true, false, false, false, true],
    ]);
    expect(writeStates(lines)).toBe('{"0": "A", "x": "A", "0": "A", "1.5": "A", "-3": "A"}');
    expect(freshNumber(lines)).toBe('1');
    expect(freshNumber([])).toBe('0');
  });
});
