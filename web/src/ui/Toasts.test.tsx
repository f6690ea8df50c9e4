// @vitest-environment jsdom
import { act } from 'react';
import { createRoot, type Root } from 'react-dom/client';
import { afterEach, beforeAll, beforeEach, expect, it, vi } from 'vitest';
import { ToastPanel, Toasts } from './Toasts';
import { say } from './toasts';

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

let root: Root;

beforeAll(async () => {
  await ToastPanel.load();
}, 60_000);
beforeEach(() => {
  vi.useFakeTimers();
  root = createRoot(document.body.appendChild(document.createElement('div')));
  act(() => root.render(<Toasts />));
});
afterEach(() => {
  act(() => root.unmount());
  document.body.replaceChildren();
  vi.useRealTimers();
});

const said = (): string => document.querySelector('[role=status], [role=alert]')?.textContent ?? '';
const press = async (name: string): Promise<void> => {
  await act(async () => {
    [...document.querySelectorAll('button')]
      .find((one) => one.textContent === name || one.ariaLabel === name)
      ?.click();
    await Promise.resolve();
  });
};

it('says what was done for a while, then no more; longer where it can be taken back', () => {
  act(() => say('Line 5 is back.'));
  expect(said()).toBe('Line 5 is back.');
  expect(document.querySelectorAll('button')).toHaveLength(1);
  act(() => void vi.advanceTimersByTime(10_000));
  expect(said()).toBe('');
  act(() => say('Line 5 is removed.', () => Promise.resolve('Line 5 is back.')));
  act(() => void vi.advanceTimersByTime(15_000));
  expect(said()).toContain('Line 5 is removed.');
  act(() => void vi.advanceTimersByTime(10_000));
  expect(said()).toBe('');
});

it('takes back what was done, and says what is so then', async () => {
  const undo = vi.fn(() => Promise.resolve('Line 5 is back.'));
  act(() => say('Line 5 is removed.', undo));
  await press('Undo');
  expect(undo).toHaveBeenCalledOnce();
  expect(said()).toBe('Line 5 is back.');
  await press('Close what is said');
  expect(said()).toBe('');
});

it('says why it cannot be taken back, until that is read', async () => {
  act(() => say('Line 5 is removed.', () => Promise.reject(new TypeError('Failed to fetch'))));
  await press('Undo');
  expect(document.querySelector('[role=alert]')?.textContent).toContain('The server does not answer.');
  act(() => void vi.advanceTimersByTime(60_000));
  expect(said()).toContain('The server does not answer.');
});
