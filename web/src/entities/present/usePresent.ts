/** Present values of tags and the course of the last minutes, of those that are looked at. */
import { useEffect, useState } from 'react';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { errorText } from '../../platform/errors';
import { live } from '../../platform/live';
import { useServerClock } from '../clock';
import { NOTHING, type Present } from './state';
import type { PresentStore } from './store';

/** What follows them comes after the list. */
async function loaded(values: StoreApi<Present>): Promise<PresentStore> {
  const [{ createPresentStore }, { fetchCurves }] = await Promise.all([
    import('./store'),
    import('../curves'),
  ]);
  return createPresentStore({ values, connection: live, read: fetchCurves, nowUs: () => Date.now() * 1000 });
}

/** Follows these tags while it is shown. */
export function usePresent(uids: readonly string[]): StoreApi<Present> {
  const { offsetUs } = useServerClock();
  const [values] = useState(() => createStore<Present>(() => NOTHING));
  const [store, setStore] = useState<PresentStore | null>(null);
  useEffect(() => {
    let isLeft = false;
    loaded(values).then(
      (found) => {
        if (!isLeft) setStore(found);
      },
      (error: unknown) => values.setState({ problem: errorText(error) }),
    );
    return () => {
      isLeft = true;
    };
  }, [values]);
  useEffect(() => {
    // One clock for all rows.
    const tick = (): void => values.setState({ nowUs: Date.now() * 1_000 + offsetUs });
    tick();
    const timer = window.setInterval(tick, 1_000);
    return () => window.clearInterval(timer);
  }, [values, offsetUs]);
  useEffect(() => store?.setAhead(offsetUs), [store, offsetUs]);
  useEffect(() => store?.follow(uids), [store, uids]);
  useEffect(() => () => store?.end(), [store]);
  return values;
}
