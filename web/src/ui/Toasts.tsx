/** The place where it is said what was just done. */
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import * as wording from 'texts/ui.json';
import { lazyPart } from './lazyPart';
import { toastStore } from './toasts';

export const ToastPanel = lazyPart(
  wording.whatWasJustDone,
  async () => (await import('./ToastPanel')).ToastPanel,
);

export function Toasts(): ReactElement | null {
  const toast = useStore(toastStore, (values) => values.toast);
  return toast === null ? null : <ToastPanel toast={toast} key={toast.id} />;
}
