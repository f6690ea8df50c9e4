import { describe, expect, it } from 'vitest';
import { idleText } from './idle';
import type { Trace } from './model';

const logger = (name: string, state: string): never => ({ name, state }) as never;
const trace = (...names: string[]): Pick<Trace, 'tag' | 'origin'> => ({
  origin: 'tag',
  tag: { recorded: names.map((one) => ({ logger: one })) } as never,
});

describe('a card whose logger does not record', () => {
  it('says which logger, and why', () => {
    const recorder = { state: 'running', loggers: [logger('Fast', 'stopped'), logger('Slow', 'recording')] };
    expect(idleText(trace('Fast'), recorder)).toBe('Not recording: logger Fast is stopped');
  });

  it('is silent while another one records, nothing is known, or nothing should', () => {
    const recorder = {
      state: 'running',
      loggers: [logger('Fast', 'stopped'), logger('Slow', 'recording'), logger('New', 'unknown')],
    };
    expect(idleText(trace('Fast', 'Slow'), recorder)).toBe('');
    expect(idleText(trace('New'), recorder)).toBe('');
    expect(idleText(trace(), { ...recorder, state: 'stopped' })).toBe('');
  });

  it('says that the recorder does not run', () => {
    expect(idleText(trace('Fast'), { state: 'lost', loggers: [] })).toBe(
      'Not recording: the recorder does not run',
    );
  });
});
