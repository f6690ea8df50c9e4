/** What was just done is said at the edge of the page, with a way to take it back. */
import { createStore } from 'zustand/vanilla';

export interface Toast {
  /** Tells those apart that say the same. */
  id: number;
  text: string;
  /** Takes back what was done; says what is so then. Null: that cannot be. */
  undo: (() => Promise<string>) | null;
}

interface ToastValues {
  /** Null: nothing to say. */
  toast: Toast | null;
}

export const toastStore = createStore<ToastValues>(() => ({ toast: null }));

let said = 0;

/** Says it in the place of what was said before. */
export function say(text: string, undo: Toast['undo'] = null): void {
  said += 1;
  toastStore.setState({ toast: { id: said, text, undo } });
}

/** It has been read, or something else is said by now. */
export function unsay(toast: Toast): void {
  if (toastStore.getState().toast === toast) toastStore.setState({ toast: null });
}
