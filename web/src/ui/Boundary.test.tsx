// @vitest-environment jsdom
import { act, type ReactElement } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Boundary } from '.';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

let root: Root;
let fails = true;

function Part(): ReactElement {
  if (fails) throw new Error('no such column');
  return <p>all is well</p>;
}

beforeEach(() => {
  fails = true;
  // What is caught is told to the console, where nobody looks here.
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  document.body.innerHTML = '<div id="root"></div>';
  root = createRoot(document.getElementById('root') as HTMLElement);
});

afterEach(() => {
  act(() => root.unmount());
  vi.restoreAllMocks();
});

describe('a part of a page that fails', () => {
  it('says so in its own place, leaves the rest, and comes back', () => {
    act(() =>
      root.render(
        <>
          <h1>Trends</h1>
          <Boundary what="This panel">
            <Part />
          </Boundary>
        </>,
      ),
    );
    const alert = document.querySelector('[role=alert]');
    expect(alert?.textContent).toContain('This panel cannot be shown.');
    expect(alert?.textContent).toContain('no such column');
    expect(document.querySelector('h1')?.textContent).toBe('Trends');
    fails = false;
    act(() => document.querySelector('button')?.click());
    expect(document.querySelector('[role=alert]')).toBeNull();
    expect(document.querySelector('p')?.textContent).toBe('all is well');
  });
});
