// @vitest-environment jsdom
import { onlineManager, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { sheetsOfQuery, sheetsQuery } from '../entities/sheets';
import { tagChoiceQuery } from '../entities/tags';
import { done, field, type } from '../ui/form/testSupport';
import { Palette } from './Palette';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

const tag = (name: string) =>
  ({ uid: name, name, description: '', unit: '%', equipment: 'Line 3', recorded: [] }) as never;
/** The library's field takes its time where the machine is busy. */
const PATIENCE = { timeout: 30_000 };
const FIELD = 'Find a tag, sheet, page or action';
const onTag = vi.fn<(found: { name: string }) => void>();
const hold = vi.fn<() => void>();
let queries: QueryClient;
let root: Root;

beforeEach(async () => {
  onTag.mockReset();
  hold.mockReset();
  // What is not known already is on its way until a test says what the server answers.
  onlineManager.setOnline(false);
  queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  queries.setQueryData(tagChoiceQuery('').queryKey, []);
  queries.setQueryData(tagChoiceQuery('zone').queryKey, [tag('Line 3 Zone 1'), tag('Line 3 Zone 3')]);
  queries.setQueryData(sheetsQuery.queryKey, []);
  queries.setQueryData(sheetsOfQuery('statistics').queryKey, []);
  queries.setQueryData(sheetsOfQuery('samples').queryKey, []);
  root = createRoot(document.body.appendChild(document.createElement('div')));
  await done(() =>
    root.render(
      <MemoryRouter>
        <QueryClientProvider client={queries}>
          <Palette actions={[{ name: 'Hold', run: hold }]} onTag={onTag} onClose={() => undefined} />
        </QueryClientProvider>
      </MemoryRouter>,
    ),
  );
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
  onlineManager.setOnline(true);
});

const press = (key: string): Promise<void> =>
  done(() => field(FIELD).dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true })));
const offered = (): (string | null)[] =>
  [...document.querySelectorAll('[role=option]')].map((option) => option.textContent);

const names = (): string[] => onTag.mock.calls.map(([found]) => found.name);

it('Enter means the first entry for what was typed, not for what was typed before', PATIENCE, async () => {
  await type(FIELD, 'zone');
  await type(FIELD, 'zone 3');
  expect(offered()[0]).toContain('Line 3 Zone 1');
  await press('Enter');
  expect(onTag).not.toHaveBeenCalled();
  await done(() => {
    queries.setQueryData(tagChoiceQuery('zone 3').queryKey, [tag('Line 3 Zone 3'), tag('Line 3 Zone 1')]);
  });
  expect(names()).toEqual(['Line 3 Zone 3']);
});

it('who moved to an entry means that one, also while newer ones are on their way', PATIENCE, async () => {
  await type(FIELD, 'zone');
  await type(FIELD, 'zone 3');
  await press('ArrowDown');
  await press('Enter');
  expect(names()).toEqual(['Line 3 Zone 3']);
});

it('an action that stands first is done at once, though tags are still on their way', PATIENCE, async () => {
  await type(FIELD, 'hold');
  expect(offered()).toEqual(['Hold']);
  await press('Enter');
  expect(hold).toHaveBeenCalledOnce();
});

it('who types on after Enter is not taken away', PATIENCE, async () => {
  await type(FIELD, 'zone');
  await type(FIELD, 'zone 3');
  await press('Enter');
  await type(FIELD, 'zone');
  expect(onTag).not.toHaveBeenCalled();
});
