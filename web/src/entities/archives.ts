/** Archives and their limits. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

export type Archive = components['schemas']['ArchiveOut'];
export type ArchiveIn = components['schemas']['ArchiveIn'];

export const archivesQuery = queryOptions({
  queryKey: [SETUP, 'archives'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/archives', { signal })),
});

/** What the limits of an archive would delete now. */
export const retentionQuery = (uid: string, form: ArchiveIn) => {
  const query = {
    thin: form.thin,
    ...(form.keep_us == null ? {} : { keep_us: form.keep_us }),
    ...(form.keep_bytes == null ? {} : { keep_bytes: form.keep_bytes }),
  };
  return queryOptions({
    queryKey: [SETUP, 'retention', uid, query],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/setup/archives/{uid}/retention', { params: { path: { uid }, query }, signal }),
      ),
    placeholderData: keepPreviousData,
  });
};

/** Saves an archive: a new one, or in place of the one that was seen. */
export async function saveArchive(seen: Archive | null, body: ArchiveIn): Promise<Archive> {
  if (seen === null) return unwrap(await client.POST('/api/setup/archives', { body }));
  const params = { path: { uid: seen.uid } };
  return unwrap(
    await client.PUT('/api/setup/archives/{uid}', { params, body: { ...body, revision: seen.revision } }),
  );
}

export async function removeArchive({ uid, revision }: Archive): Promise<void> {
  await client.DELETE('/api/setup/archives/{uid}', { params: { path: { uid }, query: { revision } } });
}
