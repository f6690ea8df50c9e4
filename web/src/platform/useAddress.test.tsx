// @vitest-environment jsdom
import { useEffect, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { createBrowserHistory } from 'history';
import { Link, Route, Routes } from 'react-router';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { HistoryRouter } from './router';
import { useAddress, useAddressWriter, type WriteAddress } from './useAddress';

let root: Root;
let write: WriteAddress | null = null;

function useTold(change: WriteAddress): void {
  useEffect(() => {
    write = change;
  }, [change]);
}

function Trends(): ReactElement {
  const [followed, change] = useAddressWriter();
  useTold(change);
  return (
    <>
      <p>Trends of {followed.get('tags')}</p>
      <Link to="/trends?tags=a">Again</Link>
      <Link to="/runs">Runs</Link>
    </>
  );
}

function Records(): ReactElement {
  const [shown, change] = useAddress();
  useTold(change);
  return <p>Records of {shown.get('logger')}</p>;
}

const address = (): string => window.location.pathname + window.location.search;
const said = (): string => document.querySelector('p')?.textContent ?? '';
const change = (query: string, asNewPage = false): void => write?.(new URLSearchParams(query), asNewPage);

/** Once it is so, however long the machine takes. */
async function until(condition: () => void): Promise<void> {
  await vi.waitFor(condition, { timeout: 4_000 });
}

function click(name: string): void {
  const link = [...document.querySelectorAll('a')].find((one) => one.textContent === name);
  link?.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true }));
}

async function open(path: string): Promise<void> {
  window.history.replaceState(null, '', path);
  root.render(
    <HistoryRouter history={createBrowserHistory()} basename="/">
      <Routes>
        <Route path="/trends" Component={Trends} />
        <Route path="/records" Component={Records} />
        <Route path="/runs" element={<p>Runs</p>} />
      </Routes>
    </HistoryRouter>,
  );
  await until(() => expect(write).not.toBeNull());
}

beforeEach(() => {
  root = createRoot(document.body.appendChild(document.createElement('div')));
});
afterEach(() => {
  root.unmount();
  write = null;
  document.body.replaceChildren();
});

it('many changes become one of the address, and the last of them arrives', async () => {
  await open('/trends?tags=a');
  const replaced = vi.spyOn(window.history, 'replaceState');
  for (let i = 0; i < 100; i++) change(`tags=a&last=PT${i}M`);
  await until(() => expect(address()).toBe('/trends?tags=a&last=PT99M'));
  expect(replaced.mock.calls.length).toBeLessThan(10);
  replaced.mockRestore();
});

it('what is changed by hand is written at once where a page wants that, and only a stream of changes waits', async () => {
  await open('/records?logger=a');
  for (const logger of ['b', 'c', 'd']) {
    change(`logger=${logger}`);
    expect(said()).toBe(`Records of ${logger}`);
    expect(address()).toBe(`/records?logger=${logger}`);
  }
  const replaced = vi.spyOn(window.history, 'replaceState');
  for (let i = 0; i < 100; i++) change(`logger=${i}`);
  expect(said()).toBe('Records of 99');
  await until(() => expect(address()).toBe('/records?logger=99'));
  expect(replaced.mock.calls.length).toBeLessThan(30);
  replaced.mockRestore();
});

it('a change that waits is written before somebody goes to another page, and not over that page', async () => {
  await open('/trends?tags=a');
  const pushed = vi.spyOn(window.history, 'pushState');
  change('tags=b');
  click('Runs');
  await until(() => expect(said()).toBe('Runs'));
  expect(pushed).toHaveBeenCalledOnce();
  pushed.mockRestore();
  window.dispatchEvent(new Event('blur'));
  expect(address()).toBe('/runs');
  window.history.back();
  await until(() => expect(said()).toBe('Trends of b'));
  expect(address()).toBe('/trends?tags=b');
});

it('a link is followed also where it says what the page began with', async () => {
  await open('/trends?tags=a');
  change('tags=b');
  await until(() => expect(address()).toBe('/trends?tags=b'));
  click('Again');
  await until(() => expect(address()).toBe('/trends?tags=a'));
});

it('a new page can be gone back from, to what was shown before', async () => {
  await open('/trends?tags=a');
  change('tags=b');
  change('tags=c', true);
  await until(() => expect(said()).toBe('Trends of c'));
  expect(address()).toBe('/trends?tags=c');
  window.history.back();
  await until(() => expect(said()).toBe('Trends of b'));
  expect(address()).toBe('/trends?tags=b');
});
