import { expect, it } from 'vitest';
import { coarse } from './steps';
import { HOUR, SECOND } from './time';

it('a growing length has few steps, none below it and none a quarter above it', () => {
  const steps = new Set<number>();
  for (let us = HOUR; us <= 8 * HOUR; us += SECOND) {
    const step = coarse(us);
    expect(step).toBeGreaterThanOrEqual(us);
    expect(step).toBeLessThanOrEqual(us * 1.25);
    steps.add(step);
  }
  expect(steps.size).toBeLessThanOrEqual(14);
});

it.each([
  [1, 1],
  [2, 2],
  [9, 10],
  [1024, 1024],
  [1025, 1280],
])('%i becomes %i', (us, step) => expect(coarse(us)).toBe(step));
