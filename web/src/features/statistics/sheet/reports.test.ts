import { describe, expect, it } from 'vitest';
import { percentText, reportWords } from './reports';

describe('what is said of reports', () => {
  it('never rounds up to the whole', () => {
    expect([percentText(99.97), percentText(100), percentText(0), percentText(null)]).toEqual([
      '99.9 %',
      '100 %',
      '0.0 %',
      '–',
    ]);
  });

  it('tells when and of what', () => {
    const lines = [{ member: 'Damper', stat: 'Travel' }];
    expect(reportWords({ every: 'shift', kind: 'Drying line', lines, enabled: true })).toBe(
      'each shift, 1 figure of Drying line',
    );
    expect(reportWords({ every: 'day', kind: 'Line', lines: [...lines, ...lines], enabled: false })).toBe(
      'switched off, 2 figures of Line',
    );
  });
});
