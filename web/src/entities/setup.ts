/** What all of the set-up has in common: the key that is asked for anew after a change, the record of changes, the set-up
 * file. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

/** Everything under this key is asked for anew after a change. */
export const SETUP = 'setup';

export type Change = components['schemas']['ChangeOut'];
export type DocumentReport = components['schemas']['DocumentReport'];

/** All that one person changed at one moment. */
export type Step = components['schemas']['StepOut'];

const STEPS = 50;

/** What was changed, step by step, newest first; `search` is in names of objects and persons. */
export const stepsQuery = (kind: string, search: string) =>
  infiniteQueryOptions({
    queryKey: [SETUP, 'changes', kind, search],
    queryFn: async ({ pageParam, signal }) => {
      const query = { kind, search, limit: STEPS, ...(pageParam === 0 ? {} : { before_us: pageParam }) };
      return unwrap(await client.GET('/api/setup/changes/steps', { params: { query }, signal }));
    },
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < STEPS ? undefined : Number(last.at(-1)?.first.created_us)),
    placeholderData: keepPreviousData,
  });

/** So many changes of a step are shown. */
export const MOST_OF_STEP = 100;

/** The changes of the step that a change is of. */
export const stepQuery = (change_id: number | null) =>
  queryOptions({
    queryKey: [SETUP, 'changes', 'step', change_id],
    queryFn: async ({ signal }) => {
      const params = { path: { change_id: change_id ?? 0 }, query: { limit: MOST_OF_STEP } };
      return unwrap(await client.GET('/api/setup/changes/{change_id}/step', { params, signal }));
    },
    enabled: change_id !== null,
  });

/** Takes back all that was changed in the step that a change is of. */
export async function undoStep(change_id: number): Promise<unknown> {
  return unwrap(
    await client.POST('/api/setup/changes/{change_id}/undo', { params: { path: { change_id } } }),
  );
}

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
  await undoStep(removal.change_id);
}

/** What a set-up file would change; with `write` it does. */
export async function sendDocument(body: Record<string, unknown>, write: boolean): Promise<DocumentReport> {
  return unwrap(await client.POST('/api/setup/document', { body, params: { query: { write } } }));
}
