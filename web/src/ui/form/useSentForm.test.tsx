// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { ApiError } from '../../platform/errors';
import { fieldsOf, FormFields, InnerFields, shapes, useSentForm } from '.';
import { done, field, type } from './testSupport';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

interface Values {
  name: string;
  low: number;
  high: number;
}

const Fields = fieldsOf<Values>();
const SHAPE = shapes.shape(
  { name: shapes.filled('Give it a name.'), low: shapes.number, high: shapes.number },
  ({ low, high }: Values): Record<string, string> => (low < high ? {} : { low: 'Too high.' }),
);
const FIRST = { name: '', low: 0, high: 100 };

const send = vi.fn<(values: Values) => Promise<unknown>>();
let root: Root;

beforeEach(() => {
  send.mockReset();
  send.mockResolvedValue({});
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
});

function Small({ stays }: { stays: boolean }): ReactElement {
  const sent = useSentForm<Values, unknown>({
    values: FIRST,
    shape: SHAPE,
    send,
    stays,
    also: { title: 'name' },
  });
  return (
    <form onSubmit={sent.onSubmit}>
      <FormFields of={sent}>
        <Fields.Text name="name" label="Name" />
        <Fields.Number name="low" label="From" />
        <Fields.Number name="high" label="to" />
        <p id="told">{sent.general ?? (sent.done ? 'Done.' : '')}</p>
        <button type="submit">Add</button>
      </FormFields>
    </form>
  );
}

async function show(what: ReactElement): Promise<void> {
  await done(() => root.render(<QueryClientProvider client={new QueryClient()}>{what}</QueryClientProvider>));
}

const press = (): Promise<void> => done(() => document.querySelector('button')?.click());
const told = (): string | null => document.getElementById('told')?.textContent ?? null;

it('what was sent leaves the fields as they were at first, or stays', async () => {
  await show(<Small stays={false} />);
  await type('Name', 'Trial 7');
  await press();
  expect(send).toHaveBeenCalledExactlyOnceWith({ name: 'Trial 7', low: 0, high: 100 });
  expect(field('Name').value).toBe('');
  expect(told()).toBe('Done.');
  await show(<Small key="another" stays />);
  await type('Name', 'Trial 8');
  await press();
  expect(field('Name').value).toBe('Trial 8');
  await type('Name', 'Trial 9');
  expect(told(), 'something was typed since').toBe('');
});

it('what is missing, mistyped or does not fit is said at its field, which gets the focus; nothing is sent', async () => {
  await show(<Small stays />);
  await press();
  expect(document.activeElement).toBe(field('Name'));
  expect(document.body.textContent).toContain('Give it a name.');
  await type('Name', 'Trial 7');
  await type('to', '5O');
  await press();
  expect(document.activeElement).toBe(field('to'));
  expect(field('to').value).toBe('5O');
  await type('to', '-1');
  await press();
  expect(document.activeElement).toBe(field('From'));
  expect(document.body.textContent).toContain('Too high.');
  expect(send).not.toHaveBeenCalled();
});

it('what the server refuses is said at its field, anything else below; what was typed stays', async () => {
  await show(<Small stays={false} />);
  await type('Name', 'Trial 7');
  const refused = [
    { field: 'body.title', problem: 'another run has this name', remedy: 'Choose another one.' },
  ];
  send.mockRejectedValueOnce(new ApiError(422, 'The run is not begun.', '', refused));
  await press();
  expect(document.body.textContent).toContain('Another run has this name. Choose another one.');
  expect(field('Name').getAttribute('aria-invalid')).toBe('true');
  expect(told()).toBe('');
  send.mockRejectedValueOnce(new ApiError(503, 'Not now', 'The database does not answer.'));
  await press();
  expect(told()).toContain('The database does not answer.');
  expect(field('Name').value).toBe('Trial 7');
});

it('what is typed while the answer is on its way is not lost, and a second press sends nothing twice', async () => {
  let answer = (): void => undefined;
  send.mockReturnValueOnce(new Promise((resolve) => (answer = () => resolve({}))));
  await show(<Small stays={false} />);
  await type('Name', 'Trial 7');
  await press();
  await type('Name', 'Trial 8');
  await press();
  expect(send).toHaveBeenCalledTimes(1);
  await done(answer);
  expect(field('Name').value).toBe('Trial 8');
  expect(told()).toBe('');
});

it('Enter in a form inside another one sends the inner one alone', async () => {
  const outer = vi.fn();
  function Outer(): ReactElement {
    const inner = useSentForm<Values, unknown>({ values: FIRST, shape: SHAPE, send });
    return (
      <form onSubmit={outer}>
        <InnerFields of={inner}>
          <Fields.Text name="name" label="Name" />
        </InnerFields>
      </form>
    );
  }
  await show(<Outer />);
  const enter = (): KeyboardEvent =>
    new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true });
  await done(() => field('Name').dispatchEvent(enter()));
  expect(document.activeElement, 'it is empty').toBe(field('Name'));
  await type('Name', 'Trial 7');
  const pressed = enter();
  await done(() => field('Name').dispatchEvent(pressed));
  expect(send).toHaveBeenCalledTimes(1);
  expect(pressed.defaultPrevented, 'the browser would send the outer one').toBe(true);
});
