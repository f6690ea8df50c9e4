import { describe, expect, it } from 'vitest';
import { exportJob } from './exportJob';

const SPAN = { startUs: 1.5, endUs: 10.2 };

describe('a file that is asked for', () => {
  it('holds the whole stretch', () => {
    expect(exportJob(['a'], [], SPAN, 'csv', false)).toEqual({
      kind: 'export_samples',
      tags: ['a'],
      start_us: '1',
      end_us: '11',
      form: 'csv',
      archives: {},
      utc: false,
    });
  });

  it('names the archives that were chosen, whatever they are called', () => {
    const job = exportJob(['a', 'b'], ['b:Line 1: fast'], SPAN, 'parquet', true);
    expect([job.archives, job.utc, job.form]).toEqual([{ b: 'Line 1: fast' }, true, 'parquet']);
  });
});
