/** Present values for the cells of a list of tags. */
import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import type { StoreApi } from 'zustand/vanilla';
import type { Present } from '../../../../entities/present/state';

export const PresentContext = createContext<StoreApi<Present> | null>(null);

export function usePresentOf<T>(select: (present: Present) => T): T {
  const store = useContext(PresentContext);
  if (store === null) throw new Error('present values are followed around these cells');
  return useStore(store, select);
}
