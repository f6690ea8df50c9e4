// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { FormActions, Offered, Panel, Removal } from '..';
import { AccessContext } from '../access';
import { fieldsOf, FormFields, shapes, useSentForm } from '.';
import { done, field } from './testSupport';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

const Fields = fieldsOf<{ name: string }>();
const SHAPE = shapes.shape({});
const WHY = 'Guests may not do this.';
const send = vi.fn<() => Promise<null>>(() => Promise.resolve(null));
let root: Root;

function Form(): ReactElement {
  const form = useSentForm<{ name: string }, null>({ values: { name: 'Line 1' }, shape: SHAPE, send });
  return (
    <FormFields of={form}>
      <Panel title="Source" onClose={() => undefined} onSubmit={form.onSubmit}>
        <Fields.Text name="name" label="Name" />
        <FormActions save="Save" busy={false}>
          <Removal what="Line 1" onRemove={() => undefined}>
            It goes.
          </Removal>
        </FormActions>
        <Offered>
          <button type="button">Duplicate</button>
        </Offered>
      </Panel>
    </FormFields>
  );
}

const show = (refusal: string | null): Promise<void> =>
  done(() =>
    root.render(
      <QueryClientProvider client={new QueryClient()}>
        <AccessContext value={refusal}>
          <Form />
        </AccessContext>
      </QueryClientProvider>,
    ),
  );
const buttons = (): (string | null)[] =>
  [...document.querySelectorAll('button')].map((one) => one.textContent).filter((text) => text !== '');
const submit = (): Promise<void> =>
  done(() =>
    document.querySelector('form')?.dispatchEvent(new Event('submit', { bubbles: true, cancelable: true })),
  );

beforeEach(() => {
  send.mockClear();
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
});

it('is saved, removed and duplicated by who may', async () => {
  await show(null);
  expect(buttons()).toEqual(['Save', 'Remove …', 'Duplicate']);
  expect(field('Name').matches(':disabled')).toBe(false);
  await submit();
  expect(send).toHaveBeenCalledOnce();
});

it('is read by who may not, who is told why, once, and sends nothing by Enter either', async () => {
  await show(WHY);
  expect(buttons()).toEqual([]);
  expect(field('Name').matches(':disabled')).toBe(true);
  expect(field('Name').value).toBe('Line 1');
  expect(document.body.textContent.split(WHY)).toHaveLength(2);
  await submit();
  expect(send).not.toHaveBeenCalled();
});
