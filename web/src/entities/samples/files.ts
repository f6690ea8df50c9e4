/** Files of a table of samples: at once, or made in the background. */
import type { Span } from '../../domain/time';
import { client, unwrap } from '../../platform/client';
import type { components } from '../../platform/schema';
import type { Job } from '../jobs';
import { chosen, shaped, type Wish } from './rows';

export const FILE_FORMS = ['csv', 'xlsx', 'parquet'] as const;
export type FileForm = (typeof FILE_FORMS)[number];

const endsOf = ({ startUs, endUs }: Span): { start: number; end: number } => ({
  start: Math.floor(startUs),
  end: Math.ceil(endUs),
});

/** All rows as a file, under the name that the server gives it; throws where there are more than it makes at once. */
export async function fetchFile(
  wish: Wish,
  span: Span,
  form: FileForm,
): Promise<{ blob: Blob; name: string }> {
  const query = { ...chosen(wish), ...shaped(wish), ...endsOf(span), form };
  const answer = await client.GET('/api/samples/export', { params: { query }, parseAs: 'blob' });
  const blob: Blob = unwrap<Blob>(answer);
  const said = answer.response.headers.get('content-disposition') ?? '';
  return { blob, name: /filename="([^"]+)"/.exec(said)?.[1] ?? `samples.${form}` };
}

/** What the worker is asked for to have all rows, however many. */
export function tableJob(wish: Wish, span: Span, form: FileForm): components['schemas']['TableJobIn'] {
  const { tag, ...filters } = chosen(wish);
  const { start, end } = endsOf(span);
  const ends = { start_us: String(start), end_us: String(end) };
  return { kind: 'export_table', tags: tag, ...filters, ...shaped(wish), ...ends, form, archives: {} };
}

export async function askFile(wish: Wish, span: Span, form: FileForm): Promise<Job> {
  return unwrap(await client.POST('/api/jobs', { body: tableJob(wish, span, form) }));
}
