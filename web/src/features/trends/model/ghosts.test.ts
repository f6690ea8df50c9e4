import { expect, it } from 'vitest';
import { earlierBy } from './ghosts';

const run = (start: number, end: number | null, rule: string) => ({
  origin: 'tag' as const,
  rule,
  start_us: String(start),
  end_us: end === null ? null : String(end),
});

it('the run before is the one of the same rule', () => {
  const runs = [
    run(900, null, 'lots'),
    run(850, 880, 'cleaning'),
    run(500, 880, 'lots'),
    run(100, 490, 'lots'),
  ];
  expect(earlierBy(runs, { startUs: 910, endUs: 950 })).toBe(400);
  expect(earlierBy(runs, { startUs: 600, endUs: 700 })).toBe(400);
  expect(earlierBy(runs, { startUs: 840, endUs: 870 })).toBe(400);
  expect(earlierBy(runs, { startUs: 100, endUs: 200 })).toBeNull();
  expect(earlierBy([], { startUs: 0, endUs: 1 })).toBeNull();
});
