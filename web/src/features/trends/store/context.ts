/** The store of the trend in which a part stands. */
import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import type { TrendStore, TrendValues } from './trendStore';

export const TrendContext = createContext<TrendStore | null>(null);

export function useTrendStore(): TrendStore {
  const store = useContext(TrendContext);
  if (store === null) throw new Error('This part stands outside of a trend.');
  return store;
}

/** A part of what the trend shows: only its changes draw anew. */
export function useTrendValue<T>(select: (values: TrendValues) => T): T {
  return useStore(useTrendStore().values, select);
}
