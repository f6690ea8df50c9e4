/** Notes pinned to a moment or a stretch. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { Span } from '../domain/time';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export type Note = components['schemas']['NoteOut'];
export const NOTES = 'notes';

/** Notes that touch a stretch. */
export const notesQuery = (span: Span, search: string) =>
  queryOptions({
    queryKey: [NOTES, Math.floor(span.startUs), Math.ceil(span.endUs), search],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.GET('/api/notes', {
          params: {
            query: { start: Math.floor(span.startUs), end: Math.ceil(span.endUs), search },
          },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });

export async function addNote(body: components['schemas']['NoteIn']): Promise<Note> {
  return unwrap(await client.POST('/api/notes', { body }));
}

export async function changeNote(uid: string, text: string): Promise<Note> {
  return unwrap(await client.PUT('/api/notes/{uid}', { params: { path: { uid } }, body: { text } }));
}

export async function removeNote(uid: string): Promise<void> {
  await client.DELETE('/api/notes/{uid}', { params: { path: { uid } } });
}
