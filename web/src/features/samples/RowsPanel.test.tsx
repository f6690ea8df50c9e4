// @vitest-environment jsdom
import { onlineManager, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { tagChoiceQuery, tagNamesQuery } from '../../entities/tags';
import type { Tag } from '../../platform/client';
import { done, field, type } from '../../ui/form/testSupport';
import { RowsPanel } from './RowsPanel';
import { readState, type SamplesState } from './state';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

const tag = (name: string): Tag => ({ uid: name, name }) as never;
const PATIENCE = { timeout: 30_000 };
const FIELD = 'Add a tag';
const onChange = vi.fn<(more: Partial<SamplesState>) => void>();
let queries: QueryClient;
let root: Root;

const show = (tags: Tag[]): Promise<void> =>
  done(() =>
    root.render(
      <MemoryRouter>
        <QueryClientProvider client={queries}>
          <RowsPanel
            state={readState(new URLSearchParams())}
            {...{ tags, onChange }}
            onClose={() => undefined}
          />
        </QueryClientProvider>
      </MemoryRouter>,
    ),
  );

beforeEach(() => {
  onChange.mockReset();
  onlineManager.setOnline(false);
  queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  queries.setQueryData(tagChoiceQuery('').queryKey, []);
  queries.setQueryData(tagChoiceQuery('door').queryKey, [tag('Line 1 door')]);
  queries.setQueryData(tagNamesQuery([]).queryKey, []);
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
  onlineManager.setOnline(true);
});

it(
  'keeps what is typed when the tags of the table arrive, and is empty after one was added',
  PATIENCE,
  async () => {
    await show([]);
    await done(() => field(FIELD).focus());
    await type(FIELD, 'door');
    await show([tag('Line 1 pressure')]);
    expect(field(FIELD).value).toBe('door');
    const option = document.querySelector<HTMLElement>('[role=option]');
    await done(() => option?.click());
    expect(onChange).toHaveBeenCalledWith({ tags: ['Line 1 pressure', 'Line 1 door'] });
    await show([tag('Line 1 pressure'), tag('Line 1 door')]);
    expect(field(FIELD).value).toBe('');
  },
);
