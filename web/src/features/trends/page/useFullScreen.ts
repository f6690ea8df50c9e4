/** The plot alone on the whole screen. */
import { useEffect, useState } from 'react';
import { useHandlers } from '../../../platform/useHandlers';

export interface FullScreen {
  isAlone: boolean;
  toggle: () => void;
  leave: () => void;
}

export function useFullScreen(): FullScreen {
  const [isAlone, setAlone] = useState(false);
  useEffect(() => {
    if (!isAlone) return undefined;
    // The browser's own key leaves it, too; that the last full screen has ended may be told late.
    let isEntered = false;
    const change = (): void => {
      if (document.fullscreenElement !== null) isEntered = true;
      else if (isEntered) setAlone(false);
    };
    document.addEventListener('fullscreenchange', change);
    return () => document.removeEventListener('fullscreenchange', change);
  }, [isAlone]);
  const leave = (): void => {
    setAlone(false);
    if (document.fullscreenElement !== null) void document.exitFullscreen();
  };
  const on = useHandlers({
    leave,
    toggle: () => {
      if (isAlone) {
        leave();
        return;
      }
      setAlone(true);
      // Where the browser has none, or refuses it, the whole window is what there is.
      if (document.fullscreenEnabled) document.documentElement.requestFullscreen().catch(() => undefined);
    },
  });
  return { isAlone, ...on };
}
