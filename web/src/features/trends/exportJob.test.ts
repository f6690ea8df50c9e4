import { describe, expect, it } from 'vitest';
import { exportJob } from './exportJob';

const SPAN = { startUs: 1.5, endUs: 10.2 };

describe('a file that is asked for', () => {
  it('holds the whole stretch', () => {
    expect(exportJob(['a'], [], SPAN, 'csv')).toEqual({
      kind: 'export_samples',
      tags: ['a'],
      start_us: '1',
      end_us: '11',
      form: 'csv',
      archive: '',
    });
  });

  it('names an archive only when all pens are read from that one', () => {
    expect(exportJob(['a', 'b'], ['a:Long term', 'b:Long term'], SPAN, 'csv').archive).toBe('Long term');
    expect(exportJob(['a', 'b'], ['a:Long term'], SPAN, 'csv').archive).toBe('');
    expect(exportJob(['a', 'b'], ['a:Long term', 'b:Live'], SPAN, 'csv').archive).toBe('');
    expect(exportJob(['a'], ['a:Line 1: fast'], SPAN, 'parquet').archive).toBe('Line 1: fast');
  });
});
