/** Loggers, their members, and trying their rules. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

type Schemas = components['schemas'];
export type OnChangeLogger = Schemas['OnChangeLoggerOut'];
export type TriggeredLogger = Schemas['OnTriggerLoggerOut'];
export type Logger =
  OnChangeLogger | TriggeredLogger | Schemas['PeriodicLoggerOut' | 'PrePostTriggerLoggerOut'];
export type LoggerIn = Schemas[
  'PeriodicLoggerIn' | 'OnChangeLoggerIn' | 'OnTriggerLoggerIn' | 'PrePostTriggerLoggerIn'];
export type Trigger = Schemas['TriggerIn'];
export type Rule = Schemas['RuleIn'];
export type Rehearsal = Schemas['RehearseOut'];
export type ClockRule = Schemas['ClockRuleIn'];

export const loggersQuery = queryOptions({
  queryKey: [SETUP, 'loggers'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/loggers', { signal })),
});

/** Saves a logger: a new one, or in place of the one of this uid. */
export async function saveLogger(uid: string | null, body: LoggerIn): Promise<Logger> {
  if (uid === null) return unwrap(await client.POST('/api/setup/loggers', { body }));
  return unwrap(await client.PUT('/api/setup/loggers/{uid}', { params: { path: { uid } }, body }));
}

export async function removeLogger({ uid, revision }: Logger): Promise<void> {
  await client.DELETE('/api/setup/loggers/{uid}', { params: { path: { uid }, query: { revision } } });
}

/** Adds tags to a logger, and takes others out. */
export async function changeMembers(
  uid: string,
  add: readonly string[],
  remove: readonly string[] = [],
): Promise<Logger> {
  const body = { add: [...add], remove: [...remove] };
  return unwrap(await client.POST('/api/setup/loggers/{uid}/members', { params: { path: { uid } }, body }));
}

/** One record or sample now. */
export async function recordNow(uid: string): Promise<void> {
  await client.POST('/api/setup/loggers/{uid}/record', { params: { path: { uid } } });
}

/** What rules would keep of readings. */
export async function rehearse(body: Schemas['RehearseIn']): Promise<Rehearsal> {
  return unwrap(await client.POST('/api/setup/rehearse', { body }));
}
