/** Which of the trends on a page the keys are for: the one that was touched last, or the first there is. */
import { useCallback, useEffect } from 'react';
import type { TrendStore } from './trendStore';

/** The trends on the page, in the order in which they came. */
let trends: readonly TrendStore[] = [];
let touchedLast: TrendStore | null = null;

export interface Active {
  isActive: () => boolean;
  /** It was pointed at, or the focus is in it. */
  touched: () => void;
}

export function useActive(store: TrendStore): Active {
  useEffect(() => {
    trends = [...trends, store];
    return () => {
      trends = trends.filter((one) => one !== store);
      if (touchedLast === store) touchedLast = null;
    };
  }, [store]);
  const isActive = useCallback(() => (touchedLast ?? trends[0]) === store, [store]);
  const touched = useCallback(() => {
    touchedLast = store;
  }, [store]);
  return { isActive, touched };
}
