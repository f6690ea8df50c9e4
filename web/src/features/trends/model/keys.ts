/** The keys of a trend. They never act while someone types, nor with Ctrl, Alt or Meta held. */
import { useEffect } from 'react';

/** What a key does; with Shift it may do more of it. */
export type KeyActions = Readonly<Record<string, ((shift: boolean) => void) | undefined>>;

const OFF_KEY = 'cronaca.single-keys';

/** Single-letter keys can be switched off (WCAG 2.1.4). */
export function singleKeysOn(): boolean {
  return localStorage.getItem(OFF_KEY) !== 'off';
}

export function setSingleKeys(on: boolean): void {
  localStorage.setItem(OFF_KEY, on ? 'on' : 'off');
}

/** In these a letter finds an entry, arrows go through them, and Escape closes them. */
const WITH_KEYS_OF_ITS_OWN = '[role=slider],[role=menu],[role=listbox],[role=combobox],[role=dialog]';

function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return (
    target.isContentEditable ||
    ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) ||
    target.closest(WITH_KEYS_OF_ITS_OWN) !== null
  );
}

/** Runs the action of a pressed key, where the keys are for this part of the page. */
export function useKeys(isMine: () => boolean, actions: KeyActions): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.defaultPrevented || event.ctrlKey || event.altKey || event.metaKey || isTyping(event.target))
        return;
      if ((event.key.length === 1 && !singleKeysOn()) || !isMine()) return;
      const action = actions[event.key] ?? actions[event.key.toLowerCase()];
      if (action === undefined) return;
      event.preventDefault();
      action(event.shiftKey);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [isMine, actions]);
}
