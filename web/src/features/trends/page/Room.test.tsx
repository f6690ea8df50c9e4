// @vitest-environment jsdom
import { act, type ReactElement } from 'react';
import { createRoot } from 'react-dom/client';
import { expect, it } from 'vitest';
import { useAround } from './Room';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

function Around({ ready }: { ready: boolean }): ReactElement {
  return <p>{useAround(ready) ? 'around' : 'curves only'}</p>;
}

it('what stands around the curves stays while other curves are on their way', () => {
  const host = document.createElement('div');
  const root = createRoot(host);
  const told = (ready: boolean): string => {
    act(() => root.render(<Around ready={ready} />));
    return host.textContent;
  };
  expect([told(false), told(true), told(false)]).toEqual(['curves only', 'around', 'around']);
  act(() => root.unmount());
});
