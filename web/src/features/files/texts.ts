/** What the list of files says of a job. */
import * as common from 'texts/common.json';
import * as wording from 'texts/files.json';
import { fill } from '../../domain/fill';
import type { Job } from '../../entities/jobs';
import { momentText } from '../../domain/time';

const STATES = {
  waiting: common.waiting,
  running: wording.running,
  done: wording.ready,
  failed: wording.failed,
  cancelled: wording.cancelled,
} as const;
const UNITS = ['B', 'kB', 'MB', 'GB'] as const;

function tagsText(count: number): string {
  return fill(wording.numberTags, { number: count, count: count.toLocaleString('en') });
}

/** What a file holds. */
export function contentText(job: Job, zone: string): string {
  if (job.figures !== null)
    return fill(wording.tagsStatsCsv, {
      tags: tagsText(job.figures.tag_count),
      stats: job.figures.stats.join(', '),
    });
  const found = job.export;
  if (found === null) return job.name;
  const tags = found.is_table
    ? fill(wording.tableOfTags, { tags: tagsText(found.tag_count) })
    : tagsText(found.tag_count);
  const [start, end] = [found.start_us, found.end_us].map((us) => momentText(Number(us), zone));
  return `${tags}, ${start} – ${end}, ${found.form.toUpperCase()}`;
}

export function stateText(job: Job): string {
  if (job.state === 'running') return `${STATES.running}, ${Math.floor(job.share * 100)} %`;
  if (job.state === 'done') return `${STATES.done}, ${sizeText(job.file_bytes)}`;
  return STATES[job.state];
}

/** A size with three digits at most, in units of 1,000. */
export function sizeText(bytes: number): string {
  let size = bytes;
  let unit = 0;
  while (size >= 999.5 && unit < UNITS.length - 1) {
    size /= 1_000;
    unit += 1;
  }
  const digits = unit === 0 || size >= 100 ? 0 : 1;
  return `${size.toFixed(digits)} ${UNITS[unit]}`;
}
