/** Fields of a page as tests find and fill them. */
import { act } from 'react';

/** What was begun has ended, and is on the page. */
export async function done(work: () => void): Promise<void> {
  await act(async () => {
    work();
    await new Promise((passed) => window.setTimeout(passed, 5));
  });
}

export function field(label: string): HTMLInputElement {
  const found = [...document.querySelectorAll('label')].find((one) => one.textContent === label);
  return document.getElementById(found?.htmlFor ?? '') as HTMLInputElement;
}

export async function type(label: string, text: string): Promise<void> {
  const native = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value');
  await done(() => {
    native?.set?.call(field(label), text);
    field(label).dispatchEvent(new Event('input', { bubbles: true }));
  });
}
