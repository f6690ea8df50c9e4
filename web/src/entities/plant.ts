/** The plant, and who is looking at it. */
import { queryOptions, useQuery } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import { configuration } from '../platform/configuration';
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
  // The page says it; it is asked for again when the server refuses something.
  ...(configuration.person === null ? {} : { initialData: configuration.person }),
  staleTime: Infinity,
});

export type Permission = components['schemas']['Permission'];

/** What the person who is looking may do. */
export function useCan(): (permission: Permission) => boolean {
  const { data } = useQuery(meQuery);
  return (permission) => data?.permissions.includes(permission) ?? false;
}

export async function changePlant(body: components['schemas']['PlantIn']): Promise<void> {
  await client.PUT('/api/setup/plant', { body });
}
