// @vitest-environment jsdom
import { afterEach, expect, it, vi } from 'vitest';
import { copyText } from './clipboard';

function withClipboard(writeText: ((text: string) => Promise<void>) | undefined): void {
  const clipboard = writeText === undefined ? undefined : { writeText };
  Object.defineProperty(navigator, 'clipboard', { configurable: true, value: clipboard });
}

/** What the older way takes: the text that is selected when it is told to copy. */
function olderWay(works: boolean): string[] {
  const taken: string[] = [];
  const value = (): boolean => {
    taken.push((document.activeElement as HTMLTextAreaElement).value);
    return works;
  };
  Object.defineProperty(document, 'execCommand', { configurable: true, value });
  return taken;
}

afterEach(() => {
  document.body.innerHTML = '';
  vi.restoreAllMocks();
});

it('takes the clipboard where there is one', async () => {
  const written: string[] = [];
  withClipboard((text) => {
    written.push(text);
    return Promise.resolve();
  });
  await expect(copyText('a')).resolves.toBe(true);
  expect(written).toEqual(['a']);
});

it('copies without https, too, and gives the focus back', async () => {
  withClipboard(undefined);
  const taken = olderWay(true);
  document.body.innerHTML = '<button>Copy</button>';
  const button = document.querySelector('button') as HTMLButtonElement;
  button.focus();
  await expect(copyText('Line 1\t98.0')).resolves.toBe(true);
  expect(taken).toEqual(['Line 1\t98.0']);
  expect(document.activeElement).toBe(button);
  expect(document.querySelector('textarea')).toBeNull();
});

it('goes the older way where the browser refuses, and says when neither works', async () => {
  withClipboard(() => Promise.reject(new Error('not allowed')));
  const taken = olderWay(false);
  await expect(copyText('b')).resolves.toBe(false);
  expect(taken).toEqual(['b']);
});
