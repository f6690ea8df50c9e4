import { describe, expect, it } from 'vitest';
import { TOKENS } from '../../../ui/tokens';
import { brokenOf, chartPens, type Chart, type Control } from './control';

const CHART: Chart = {
  name: 'value',
  points: [10, null, 30],
  centre: 15,
  lower: [5, 5, 5],
  upper: [25, 25, 25],
  broken: [[], [], [1, 5]],
};

describe('a control chart', () => {
  it('has points over the middle of their stretches, none where there is none, and all of it on one scale', () => {
    const pens = chartPens(CHART, [0, 10, 20], 30, TOKENS.day);
    const of = (id: string): (typeof pens)[number] | undefined => pens.find((pen) => pen.id === id);
    expect([...(of('points')?.columns.t ?? [])]).toEqual([5, 25]);
    expect([...(of('points')?.columns.v ?? [])]).toEqual([10, 30]);
    expect([...(of('broken')?.columns.t ?? [])]).toEqual([25]);
    expect([...(of('centre')?.columns.v ?? [])]).toEqual([15, 15, 15]);
    expect(of('upper')?.heldUntilUs).toBe(30);
    expect(new Set(pens.map((pen) => `${pen.low} ${pen.high}`)).size).toBe(1);
    expect(of('points')?.low).toBeLessThan(5);
    expect(of('points')?.high).toBeGreaterThan(30);
  });

  it('has a scale where all is equal', () => {
    const flat: Chart = { ...CHART, points: [4], lower: [4], upper: [4], broken: [[]] };
    const [pen] = chartPens(flat, [0], 10, TOKENS.day);
    expect(pen?.low).toBeLessThan(pen?.high ?? 0);
  });

  it('says which points are unlikely, and why', () => {
    const found = {
      charts: [CHART],
      starts_us: ['0', '10', '20'],
      rules: [
        { number: 1, words: 'a point beyond three standard deviations' },
        { number: 5, words: 'two of three' },
      ],
    } as unknown as Control;
    expect(brokenOf(found)).toEqual([{ chart: 'value', atUs: 20, words: 'beyond its limit; two of three' }]);
  });
});
