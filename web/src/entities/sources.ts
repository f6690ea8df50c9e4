/** Sources, and what is asked of the devices behind them. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { SETUP } from './setup';

type Schemas = components['schemas'];
export type Source = Schemas['ModbusSourceOut' | 'OpcUaSourceOut' | 'OwnSourceOut'];
export type SourceIn = Schemas['ModbusSourceIn' | 'OpcUaSourceIn' | 'OwnSourceIn'];
/** What to try of a source. */
export type Trial = Schemas['ModbusTrial' | 'OpcUaTrial' | 'OwnTrial'];
export type Tested = Schemas['TestOut'];
export type Offer = Schemas['Offer'];
export type UaNode = Schemas['NodeOut'];
/** What lies in a folder of a server. */
export type Nodes = Schemas['BrowseOut'];
/** A generated signal. */
export type Signal = Schemas['GeneratorAddressModel'];

export const sourcesQuery = queryOptions({
  queryKey: [SETUP, 'sources'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/setup/sources', { signal })),
});

/** What lies under a node of an OPC UA server. */
export const nodesQuery = (source: Source, node: string) =>
  queryOptions({
    queryKey: ['ua-nodes', source.uid, source.revision, node],
    queryFn: async ({ signal }) =>
      unwrap(
        await client.POST('/api/setup/sources/browse', {
          body: { config: source.config, node, source: source.uid },
          signal,
        }),
      ),
    retry: false,
    staleTime: 30_000,
  });

/** Saves a source: a new one, or in place of the one that was seen. */
export async function saveSource(seen: Source | null, body: SourceIn): Promise<Source> {
  if (seen === null) return unwrap(await client.POST('/api/setup/sources', { body }));
  const params = { path: { uid: seen.uid } };
  return unwrap(
    await client.PUT('/api/setup/sources/{uid}', { params, body: { ...body, revision: seen.revision } }),
  );
}

export async function removeSource({ uid, revision }: Source): Promise<void> {
  await client.DELETE('/api/setup/sources/{uid}', { params: { path: { uid }, query: { revision } } });
}

export async function testSource(body: Trial): Promise<Tested> {
  return unwrap(await client.POST('/api/setup/sources/test', { body }));
}

/** What an OPC UA server offers. */
export async function discoverServer(endpoint: string, timeout_s: number): Promise<Schemas['DiscoverOut']> {
  return unwrap(await client.POST('/api/setup/sources/discover', { body: { endpoint, timeout_s } }));
}
