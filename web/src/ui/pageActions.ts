/** What can be done on the page that is open, beside its buttons: the palette finds it by its name. */
import { useEffect } from 'react';

export interface PageAction {
  name: string;
  run: () => void;
}

let offered: readonly (readonly PageAction[])[] = [];

/** Offered as long as the part that says so is on the page; the list is the same one until it changes. */
export function usePageActions(actions: readonly PageAction[]): void {
  useEffect(() => {
    offered = [...offered, actions];
    return () => {
      offered = offered.filter((one) => one !== actions);
    };
  }, [actions]);
}

export function pageActions(): PageAction[] {
  return offered.flat();
}
