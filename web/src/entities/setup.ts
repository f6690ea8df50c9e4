/** What all of the set-up has in common: the key that is asked for anew after a change, the record of changes, the set-up
 * file. */
import { infiniteQueryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

/** Everything under this key is asked for anew after a change. */
export const SETUP = 'setup';

export type Change = components['schemas']['ChangeOut'];
export type DocumentReport = components['schemas']['DocumentReport'];

/** The record of changes, newest first; of one kind of object or of all. */
export const changesQuery = (kind: string) =>
  infiniteQueryOptions({
    queryKey: [SETUP, 'changes', kind],
    queryFn: async ({ pageParam, signal }) =>
      unwrap(
        await client.GET('/api/setup/changes', {
          params: { query: { kind, limit: 100, ...(pageParam === 0 ? {} : { before: pageParam }) } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < 100 ? undefined : last.at(-1)?.change_id),
  });

export async function restoreChange(change_id: number): Promise<unknown> {
  return unwrap(
    await client.POST('/api/setup/changes/{change_id}/restore', { params: { path: { change_id } } }),
  );
}

/** Takes back the removal of an object, with all that went along. */
export async function undoRemoval(uid: string): Promise<void> {
  const changes = unwrap(await client.GET('/api/setup/changes', { params: { query: { uid, limit: 1 } } }));
  const removal = changes.find((one) => one.action === 'removed');
  // Somebody else has brought it back meanwhile.
  if (removal === undefined) return;
  const path = { change_id: removal.change_id };
  unwrap(await client.POST('/api/setup/changes/{change_id}/undo', { params: { path } }));
}

/** What a set-up file would change; with `write` it does. */
export async function sendDocument(body: Record<string, unknown>, write: boolean): Promise<DocumentReport> {
  return unwrap(await client.POST('/api/setup/document', { body, params: { query: { write } } }));
}
