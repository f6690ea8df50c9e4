// @vitest-environment jsdom
import { act } from 'react';
import { createRoot } from 'react-dom/client';
import { expect, it, vi } from 'vitest';
import { MomentField } from './MomentField';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

it('a moment shows what the clocks of the plant show, and keeps its other parts while one is empty', () => {
  const told = vi.fn<(us: number | null) => void>();
  const root = createRoot(document.body.appendChild(document.createElement('div')));
  const nine = Date.UTC(2026, 10, 25, 9, 0) * 1000;
  const draw = (): void =>
    act(() => root.render(<MomentField label="From" first={nine} zone="Europe/Rome" onChange={told} />));
  const shown = (): string[] =>
    ['Day', 'Month', 'Year', 'Hours', 'Minutes', 'Seconds'].map(
      (name) => document.querySelector(`[aria-label="${name}"]`)?.textContent ?? '',
    );
  draw();
  expect(shown()).toEqual(['25', '11', '2026', '10', '00', '00']);
  const day = document.querySelector<HTMLElement>('[aria-label="Day"]');
  act(() => {
    day?.focus();
    day?.dispatchEvent(new MouseEvent('click', { bubbles: true }));
  });
  act(() => {
    day?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Delete', bubbles: true }));
  });
  expect(told).toHaveBeenLastCalledWith(null);
  draw();
  expect(shown()).toEqual(['DD', '11', '2026', '10', '00', '00']);
  act(() => root.unmount());
  document.body.replaceChildren();
});
