import { describe, expect, it } from 'vitest';
import { everyText } from './ClassLoggers';

describe('The loggers of a class', () => {
  it('say an interval where they have one', () => {
    expect(everyText({ key: 'a', settings: { mode: 'periodic', interval_us: 1_000_000 } })).toBe('1 s');
    expect(everyText({ key: 'b', settings: { mode: 'periodic', interval_us: 0 } })).toBe('');
    expect(everyText({ key: 'c', settings: { mode: 'on_change' } })).toBe('');
  });
});
