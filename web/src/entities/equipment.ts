/** Classes of equipment, and the equipment of each. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { putWithProgress } from '../platform/stream';
import { SETUP } from './setup';

type Schemas = components['schemas'];

export const classesQuery = queryOptions({
  queryKey: [SETUP, 'classes'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/classes', { signal })),
});

export const equipmentOfClassQuery = (uid: string) =>
  queryOptions({
    queryKey: [SETUP, 'equipment', uid],
    queryFn: async ({ signal }) =>
      unwrap(await client.GET('/api/setup/classes/{uid}/equipment', { params: { path: { uid } }, signal })),
  });

export type Alike = Schemas['KindOut'];

/** Equipment that is alike and of no class yet. */
export const alikeQuery = queryOptions({
  queryKey: [SETUP, 'kinds'],
  queryFn: async ({ signal }) => {
    const kinds = unwrap(await client.GET('/api/statistics/kinds', { signal }));
    return kinds.filter((one) => one.equipment_class == null && one.equipment.length > 1);
  },
});

/** What saving a class would change. */
export const classPlanQuery = (uid: string, body: Schemas['ClassIn']) =>
  queryOptions({
    queryKey: ['class-plan', uid, body],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST('/api/setup/classes/{uid}/plan', { params: { path: { uid } }, body, signal })),
    retry: false,
  });

/** Adds a class without equipment. */
export async function addClass(body: Schemas['ClassIn']): Promise<Schemas['ClassOut']> {
  return unwrap(await client.POST('/api/setup/classes', { body }));
}

/** Makes a class of equipment that is alike. */
export async function gatherClass(body: Schemas['GatherIn']): Promise<Schemas['ClassOut']> {
  return unwrap(await client.POST('/api/setup/classes/gather', { body }));
}

export async function removeClass(uid: string): Promise<void> {
  await client.DELETE('/api/setup/classes/{uid}', { params: { path: { uid } } });
}

export async function addEquipment(
  uid: string,
  body: Schemas['EquipmentIn'],
): Promise<Schemas['EquipmentOfClassOut']> {
  return unwrap(await client.POST('/api/setup/classes/{uid}/equipment', { params: { path: { uid } }, body }));
}

export async function changeEquipment(
  uid: string,
  body: Schemas['EquipmentIn'],
): Promise<Schemas['EquipmentOfClassOut']> {
  return unwrap(await client.PUT('/api/setup/equipment/{uid}', { params: { path: { uid } }, body }));
}

/** Takes equipment out of its class, or away with its tags. */
export async function removeEquipment(uid: string, with_tags: boolean): Promise<void> {
  await client.DELETE('/api/setup/equipment/{uid}', { params: { path: { uid }, query: { with_tags } } });
}

/** Saves a class; all its equipment follows, which may take a while. Aborting ends it: nothing is written. */
export function saveClass(
  uid: string,
  body: Schemas['ClassIn'],
  onProgress: (done: number, of: number) => void,
  signal: AbortSignal,
): Promise<Schemas['PlanOut']> {
  return putWithProgress(`/api/setup/classes/${uid}`, body, onProgress, signal);
}
