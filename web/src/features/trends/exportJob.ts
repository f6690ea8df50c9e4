import type { ExportJob } from '../../api/jobs';
import type { Span } from '../../shared/lib/time';

/** What the worker is asked for. A file is of one archive: that which all of the pens are read from, where one
 * was chosen for them. */
export function exportJob(
  tags: readonly string[],
  archives: readonly string[],
  span: Span,
  form: 'csv' | 'parquet',
): ExportJob {
  const names = [...new Set(archives.map((pair) => pair.slice(pair.indexOf(':') + 1)))];
  return {
    kind: 'export_samples',
    tags: [...tags],
    start_us: String(Math.floor(span.startUs)),
    end_us: String(Math.ceil(span.endUs)),
    form,
    archive: names.length === 1 && archives.length === tags.length ? (names[0] ?? '') : '',
  };
}
