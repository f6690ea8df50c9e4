/** Corrections of single samples, and what stood there before. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../../platform/client';
import type { components } from '../../platform/schema';

export type Modified = components['schemas']['ModifiedOut'];
export const MODIFIED = 'modified';

/** The corrections of a tag at one moment, with the samples that stood there before. */
export const modifiedQuery = (tag: string, atUs: number) =>
  queryOptions({
    queryKey: [MODIFIED, tag, atUs],
    queryFn: async ({ signal }) => {
      const query = { tag, start: atUs, end: atUs + 1 };
      return unwrap(await client.GET('/api/history/modified', { params: { query }, signal }));
    },
  });

/** Puts another value, which is Good, in the place of a sample. */
export async function replaceSample(
  tag: string,
  tUs: string,
  value: number | boolean | string,
  reason: string,
): Promise<unknown> {
  const samples = [{ t_us: tUs, v: value, q: 0 }];
  return unwrap(await client.POST('/api/history/edits', { body: { tag, kind: 'replace', samples, reason } }));
}

export async function deleteSample(tag: string, tUs: string, reason: string): Promise<unknown> {
  // Moments have more digits than numbers hold exactly only from the year 2255 on.
  const end = String(Number(tUs) + 1);
  const body = { tag, kind: 'delete' as const, start_us: tUs, end_us: end, samples: [], reason };
  return unwrap(await client.POST('/api/history/edits', { body }));
}
