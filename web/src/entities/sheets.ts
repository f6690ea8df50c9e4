/** Saved sheets of trends and statistics. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export type Sheet = components['schemas']['SheetOut'];
export type SheetIn = components['schemas']['SheetIn'];
export const SHEETS = 'sheets';

export const sheetsQuery = queryOptions({
  queryKey: [SHEETS],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/sheets', { signal })),
});

export const statisticsSheetsQuery = queryOptions({
  queryKey: [SHEETS, 'statistics'],
  queryFn: async ({ signal }) =>
    unwrap(await client.GET('/api/sheets', { params: { query: { page: 'statistics' } }, signal })),
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
