import type { ExportJob } from '../../../entities/jobs';
import type { Span } from '../../../domain/time';

/** What the worker is asked for: the stretch that is shown of all pens, each from the archive that its curve
 * is read from (`archives`: pairs of tag and name, where one was chosen). */
export function exportJob(
  tags: readonly string[],
  archives: readonly string[],
  span: Span,
  form: 'csv' | 'parquet',
  utc: boolean,
): ExportJob {
  const chosen = archives.map((pair): [string, string] => {
    const at = pair.indexOf(':');
    return [pair.slice(0, at), pair.slice(at + 1)];
  });
  return {
    kind: 'export_samples',
    tags: [...tags],
    start_us: String(Math.floor(span.startUs)),
    end_us: String(Math.ceil(span.endUs)),
    form,
    archives: Object.fromEntries(chosen),
    utc,
  };
}
