/** Saved sheets of trends, statistics and samples. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export type Sheet = components['schemas']['SheetOut'];
export type SheetIn = components['schemas']['SheetIn'];
export type SheetPage = SheetIn['page'];
export const SHEETS = 'sheets';

export const sheetsQuery = queryOptions({
  queryKey: [SHEETS],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/sheets', { signal })),
});

/** The sheets of another page than trends. */
export const sheetsOfQuery = (page: SheetPage) =>
  queryOptions({
    queryKey: [SHEETS, page],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/sheets', { params: { query: { page } }, signal })),
  });

export async function addSheet(body: SheetIn): Promise<Sheet> {
  return unwrap(await client.POST('/api/sheets', { body }));
}

export async function changeSheet(uid: string, body: SheetIn): Promise<Sheet> {
  return unwrap(await client.PUT('/api/sheets/{uid}', { params: { path: { uid } }, body }));
}

export async function removeSheet(uid: string): Promise<void> {
  await client.DELETE('/api/sheets/{uid}', { params: { path: { uid } } });
}
