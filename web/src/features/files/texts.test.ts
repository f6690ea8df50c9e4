import { describe, expect, it } from 'vitest';
import type { Job } from '../../entities/jobs';
import { contentText, sizeText, stateText } from './texts';

describe('the size of a file', () => {
  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1_000, '1.0 kB'],
    [999_499, '999 kB'],
    [999_500, '1.0 MB'],
    [48_200_000, '48.2 MB'],
    [4_294_967_296, '4.3 GB'],
    [4_294_967_296_000, '4295 GB'],
  ])('%d is %s', (bytes, text) => {
    expect(sizeText(bytes)).toBe(text);
  });
});

describe('the state of a job', () => {
  const job = { state: 'running', share: 0.999 } as Job;

  it('is never complete before its end', () => {
    expect(stateText(job)).toBe('Running, 99 %');
    expect(stateText({ ...job, state: 'done', share: 1, file_bytes: 2_300 })).toBe('Ready, 2.3 kB');
  });
});

describe('what a file holds', () => {
  const asked = {
    is_table: false,
    tag_count: 1,
    start_us: '1780000000000000',
    end_us: '1780000060000000',
    form: 'csv',
  };

  it('says how many tags, the stretch, and the format', () => {
    expect(contentText({ export: asked, figures: null } as Job, 'UTC')).toBe(
      '1 tag, Thu 28 May 20:26:40 – Thu 28 May 20:27:40, CSV',
    );
    const many = { ...asked, tag_count: 12_000, form: 'parquet' };
    expect(contentText({ export: many, figures: null } as Job, 'UTC')).toMatch(/^12,000 tags, .*, PARQUET$/);
  });

  it('names the figures', () => {
    const figures = { tag_count: 2, stats: ['Average', 'Percentile'] };
    expect(contentText({ export: null, figures } as Job, 'UTC')).toBe('2 tags, Average, Percentile, CSV');
  });

  it('is the name of the file where this version does not know what it is', () => {
    expect(contentText({ export: null, figures: null, name: 'samples' } as Job, 'UTC')).toBe('samples');
  });
});
