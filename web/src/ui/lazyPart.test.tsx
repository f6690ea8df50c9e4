// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, useLayoutEffect, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { lazyPart, usePreloaded } from './lazyPart';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

let root: Root;
let asked: number;
let isAway: boolean;

beforeEach(() => {
  asked = 0;
  isAway = false;
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
});

function Menu({ name }: { name: string }): ReactElement {
  return <p>Menu of {name}</p>;
}

const fetched = (): Promise<typeof Menu> => {
  asked += 1;
  return isAway
    ? Promise.reject(new TypeError('Failed to fetch dynamically imported module'))
    : Promise.resolve(Menu);
};
const draw = async (part: ReactElement): Promise<void> => {
  await act(async () => {
    root.render(part);
    await Promise.resolve();
  });
};
const said = (): string => document.body.textContent;

it('a part that was loaded at rest is there at once, also while the server is away', async () => {
  const LazyPart = lazyPart('The menu', fetched);
  await LazyPart.load();
  isAway = true;
  act(() => root.render(<LazyPart name="Line 1" />));
  expect(said()).toBe('Menu of Line 1');
  expect(asked).toBe(1);
});

it('a part that was not is loaded when it is asked for, once for all places', async () => {
  const LazyPart = lazyPart('The menu', fetched);
  await draw(
    <>
      <LazyPart name="Line 1" />
      <LazyPart name="Line 2" />
    </>,
  );
  expect(said()).toBe('Menu of Line 1Menu of Line 2');
  expect(asked).toBe(1);
});

it('a part that cannot be loaded says so, and comes when it is asked for again', async () => {
  const LazyPart = lazyPart('The menu', fetched);
  isAway = true;
  await draw(<LazyPart name="Line 1" />);
  expect(said()).toContain('The menu cannot be shown.');
  expect(said()).toContain('the server does not answer');
  isAway = false;
  await act(async () => {
    document.querySelector('button')?.click();
    await Promise.resolve();
  });
  expect(said()).toBe('Menu of Line 1');
});

it('a part that arrives between being drawn and being asked for is shown', async () => {
  Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: false });
  let arrive: (part: typeof Menu) => void = () => undefined;
  const LazyPart = lazyPart('The menu', () => new Promise<typeof Menu>((resolve) => (arrive = resolve)));
  const loading = LazyPart.load();
  function Page(): ReactElement {
    useLayoutEffect(() => arrive(Menu), []);
    return <LazyPart name="Line 1" />;
  }
  root.render(<Page />);
  await loading;
  await vi.waitFor(() => expect(said()).toBe('Menu of Line 1'));
  Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });
});

it('what nobody needs yet is loaded once nothing is asked for any more', async () => {
  const LazyPart = lazyPart('The menu', fetched);
  const parts = [LazyPart];
  const queries = new QueryClient();
  let answer = (): void => undefined;
  const curves = queries.query({
    queryKey: ['curves'],
    queryFn: () => new Promise<null>((resolve) => (answer = () => resolve(null))),
  });
  function Page(): ReactElement | null {
    usePreloaded(true, parts);
    return null;
  }
  vi.useFakeTimers();
  act(() =>
    root.render(
      <QueryClientProvider client={queries}>
        <Page />
      </QueryClientProvider>,
    ),
  );
  await vi.advanceTimersByTimeAsync(1_000);
  expect(asked).toBe(0);
  answer();
  await curves;
  await vi.advanceTimersByTimeAsync(200);
  expect(asked).toBe(1);
  vi.useRealTimers();
});
