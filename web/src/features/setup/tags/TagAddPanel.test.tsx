// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { lastTagQuery } from '../../../entities/tags';
import { done, field, type } from '../../../ui/form/testSupport';
import { TagAddPanel } from './TagAddPanel';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

const PATIENCE = { timeout: 30_000 };
const source = (uid: string, protocol: string) => ({ uid, name: uid, protocol, config: {} });
const LAST = {
  value_type: 'float',
  scan_us: 5_000_000,
  stepped: false,
  decimals: 3,
  address: { table: 'coil' },
};
let queries: QueryClient;
let root: Root;
let answer: (last: unknown) => void;

beforeEach(async () => {
  queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  for (const uid of ['First', 'Second']) queries.setQueryData(lastTagQuery(uid).queryKey, null);
  const late = new Promise((resolve) => (answer = resolve));
  vi.spyOn(queries, 'query').mockImplementation((options: { queryKey: readonly unknown[] }) =>
    options.queryKey.join() === lastTagQuery('Second').queryKey.join() ? late : Promise.resolve(null),
  );
  vi.stubGlobal('fetch', () => new Promise(() => undefined));
  root = createRoot(document.body.appendChild(document.createElement('div')));
  await done(() =>
    root.render(
      <MemoryRouter>
        <QueryClientProvider client={queries}>
          <TagAddPanel
            like={null}
            sources={[source('Second', 'modbus_tcp'), source('First', 'modbus_tcp')] as never}
            onClose={() => undefined}
          />
        </QueryClientProvider>
      </MemoryRouter>,
    ),
  );
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

it(
  'takes over the settings of the last tag of a source, and nothing that was typed meanwhile',
  PATIENCE,
  async () => {
    const chosen = field('Source') as unknown as HTMLSelectElement;
    await done(() => {
      chosen.value = 'Second';
      chosen.dispatchEvent(new Event('change', { bubbles: true }));
    });
    await type('Decimals', '2');
    await done(() => answer(LAST));
    expect(field('Decimals').value).toBe('2');
    expect(field('Read every').value).toBe('5 s');
  },
);
