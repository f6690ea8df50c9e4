/** The plant, and who is looking at it. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export type Plant = components['schemas']['PlantOut'];

export const plantQuery = queryOptions({
  queryKey: ['plant'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/plant', { signal })),
  staleTime: 60_000,
});

export const meQuery = queryOptions({
  queryKey: ['me'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/me', { signal })),
  staleTime: Infinity,
});

export async function changePlant(body: components['schemas']['PlantIn']): Promise<void> {
  await client.PUT('/api/setup/plant', { body });
}
