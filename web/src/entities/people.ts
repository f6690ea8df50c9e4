/** Who is signed in, their sessions and password, and the accounts there are. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

type Schemas = components['schemas'];
export type Person = Schemas['PersonOut'];
export type SessionEntry = Schemas['SessionOut'];

export async function signIn(name: string, password: string): Promise<Schemas['Person']> {
  await client.POST('/api/session', { body: { name, password } });
  return unwrap(await client.GET('/api/me'));
}

export async function signOut(): Promise<void> {
  await client.DELETE('/api/session');
}

export async function addFirst(body: Schemas['FirstIn']): Promise<void> {
  await client.POST('/api/first', { body });
}

export async function changePassword(old: string, password: string): Promise<Schemas['Person']> {
  return unwrap(await client.POST('/api/me/password', { body: { old, new: password } }));
}

/** Whether the first administrator is still to be set up. */
export const firstQuery = queryOptions({
  queryKey: ['first'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/first', { signal })).is_needed,
  staleTime: Infinity,
});

const SESSIONS = 'sessions';
export const sessionsQuery = queryOptions({
  queryKey: [SESSIONS],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/me/sessions', { signal })),
});

export async function endSession(uid: string): Promise<void> {
  await client.DELETE('/api/me/sessions/{uid}', { params: { path: { uid } } });
}

export async function endOtherSessions(): Promise<void> {
  await client.DELETE('/api/me/sessions');
}

export const tokensQuery = queryOptions({
  queryKey: ['tokens'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/me/tokens', { signal })),
});
export type TokenEntry = Schemas['TokenOut'];

/** Makes a token, which is told this once. */
export async function makeToken(body: Schemas['TokenIn']): Promise<string> {
  return unwrap(await client.POST('/api/me/tokens', { body })).token;
}

export async function revokeToken(uid: string): Promise<void> {
  await client.DELETE('/api/me/tokens/{uid}', { params: { path: { uid } } });
}

export const peopleQuery = queryOptions({
  queryKey: [SETUP, 'people'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/people', { signal })),
});

export const rolesQuery = queryOptions({
  queryKey: [SETUP, 'roles'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/people/roles', { signal })),
});
export type Role = Schemas['RoleOut'];

/** Saves a role of one's own: a new one, or in place of the one that was seen. */
export async function saveRole(seen: Role | null, body: Schemas['RoleIn']): Promise<Role> {
  if (seen?.uid == null) return unwrap(await client.POST('/api/people/roles', { body }));
  const params = { path: { uid: seen.uid } };
  return unwrap(
    await client.PUT('/api/people/roles/{uid}', { params, body: { ...body, revision: seen.revision } }),
  );
}

export async function removeRole(uid: string): Promise<void> {
  await client.DELETE('/api/people/roles/{uid}', { params: { path: { uid } } });
}

export type GuestView = Schemas['GuestViewOut'];

export const guestViewQuery = queryOptions({
  queryKey: [SETUP, 'guest-view'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/people/guest-view', { signal })),
});

/** Lets people look without signing in, or does not. */
export async function changeGuestView(seen: GuestView, enabled: boolean): Promise<GuestView> {
  const body = { revision: seen.revision, enabled };
  return unwrap(await client.PUT('/api/people/guest-view', { body }));
}

/** Saves an account: a new one with its first password, or in place of the one that was seen. */
export async function savePerson(
  seen: Person | null,
  { password, ...body }: Schemas['NewPersonIn'],
): Promise<Person> {
  if (seen === null) return unwrap(await client.POST('/api/people', { body: { ...body, password } }));
  const params = { path: { uid: seen.uid } };
  return unwrap(
    await client.PUT('/api/people/{uid}', { params, body: { ...body, revision: seen.revision } }),
  );
}

export async function removePerson({ uid }: Person): Promise<void> {
  await client.DELETE('/api/people/{uid}', { params: { path: { uid } } });
}

export async function resetPassword(uid: string, password: string): Promise<void> {
  await client.PUT('/api/people/{uid}/password', { params: { path: { uid } }, body: { password } });
}

export async function endSessionsOf(uid: string): Promise<void> {
  await client.DELETE('/api/people/{uid}/sessions', { params: { path: { uid } } });
}
