/** What can be done with the window of the page that is open. */
import * as common from 'texts/common.json';
import { goesOn } from '../../domain/windows';
import type { PageAction } from '../../ui/pageActions';
import { railStore } from '../../ui/timerail';

export function railActions(): PageAction[] {
  const { contents } = railStore.getState();
  if (contents === null) return [];
  const { window, onLive, more } = contents;
  const live = window === null ? [] : [{ name: goesOn(window) ? common.hold : common.live, run: onLive }];
  return [...live, ...more];
}
