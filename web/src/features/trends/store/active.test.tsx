// @vitest-environment jsdom
import { act, type ReactElement } from 'react';
import { createRoot } from 'react-dom/client';
import { expect, it } from 'vitest';
import { useKeys } from '../model/keys';
import { parseState } from '../model/state';
import { useActive } from './active';
import { createTrendStore, type TrendStore } from './trendStore';

const made = (): TrendStore => createTrendStore(parseState(new URLSearchParams()));

function Keyed({ name, store, heard }: { name: string; store: TrendStore; heard: string[] }): ReactElement {
  const { isActive, touched } = useActive(store);
  useKeys(isActive, { g: () => heard.push(name) });
  return <div id={name} onPointerDownCapture={touched} onFocusCapture={touched} tabIndex={0} />;
}

it('a key is for the trend that was touched last, and for the other one when that is gone', () => {
  (globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;
  const host = document.body.appendChild(document.createElement('div'));
  const root = createRoot(host);
  const heard: string[] = [];
  const [left, right] = [made(), made()];
  const draw = (both: boolean): void =>
    act(() =>
      root.render(
        <>
          <Keyed name="left" store={left} heard={heard} />
          {both && <Keyed name="right" store={right} heard={heard} />}
        </>,
      ),
    );
  const press = (): void =>
    act(() => void document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'g', bubbles: true })));
  draw(true);
  press();
  act(() => host.querySelector<HTMLElement>('#right')?.focus());
  press();
  draw(false);
  press();
  expect(heard).toEqual(['left', 'right', 'left']);
  act(() => root.unmount());
  host.remove();
});
