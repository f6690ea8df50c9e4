/** The query of the address as what a page shows: the page changes at once, the address a moment later. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { useLocation, useNavigate } from 'react-router';
import { useBeforeLeaving } from './router';

/** Browsers drop changes of the address beyond some 200 in some seconds, so it changes now and then only; the last
 * change always arrives. */
const EVERY_MS = 250;
/** So many may follow each other within so long without waiting: more than hands can do. */
const AT_ONCE = 20;
const WITHIN_MS = 5_000;

/** In place, or as a page that the browser can go back from. */
export type WriteAddress = (params: URLSearchParams, asNewPage?: boolean) => void;

/** The same address with one more thing said, or said otherwise. */
export function withParam(params: URLSearchParams, name: string, value: string): URLSearchParams {
  const next = new URLSearchParams(params);
  next.set(name, value);
  return next;
}

/** What a page shows of the address, and how it changes it. */
export type Address = [URLSearchParams, WriteAddress];

/** Which entry of the browser's history is the present one, as the router's history names it. */
function presentEntry(): string {
  const state = window.history.state as { key?: string } | null;
  return state?.key ?? 'default';
}

/** What the address said when a link was last followed (another object each time), and the way to change it.
 * `isSoon`: what somebody changes by hand is written at once; where pictures follow each other that costs some.
 * What is changed in place is no navigation: the pages around are not drawn anew for it. */
export function useAddressWriter(isSoon = false): Address {
  const location = useLocation();
  const navigate = useNavigate();
  const followed = useMemo(() => new URLSearchParams(location.search), [location]);
  const entry = useRef(location.key);
  const waiting = useRef<{ params: URLSearchParams; timer: number } | null>(null);
  const arrivals = useRef<readonly number[]>([]);

  const forget = useCallback(() => {
    if (waiting.current !== null) window.clearTimeout(waiting.current.timer);
    waiting.current = null;
  }, []);
  useEffect(() => {
    entry.current = location.key;
    return forget;
  }, [location, forget]);

  const arrive = useCallback(() => {
    const next = waiting.current;
    if (next === null) return;
    forget();
    arrivals.current = [...arrivals.current, performance.now()].slice(-AT_ONCE);
    // Another page may be the present one already, though this one is still on the screen.
    if (presentEntry() !== entry.current) return;
    const url = `${window.location.pathname}?${next.params.toString()}`;
    window.history.replaceState(window.history.state, '', url);
  }, [forget]);
  const write = useCallback<WriteAddress>(
    (params, asNewPage = false) => {
      if (asNewPage) {
        arrive();
        void navigate({ search: `?${params.toString()}` });
      } else {
        waiting.current = { params, timer: waiting.current?.timer ?? window.setTimeout(arrive, EVERY_MS) };
        const [first = 0] = arrivals.current;
        if (isSoon && (arrivals.current.length < AT_ONCE || performance.now() - first > WITHIN_MS)) arrive();
      }
    },
    [arrive, navigate, isSoon],
  );
  useBeforeLeaving(arrive);
  useEffect(() => {
    // Who leaves the page, or copies its address with the keys, has the newest one.
    window.addEventListener('pagehide', arrive);
    window.addEventListener('blur', arrive);
    return () => {
      window.removeEventListener('pagehide', arrive);
      window.removeEventListener('blur', arrive);
    };
  }, [arrive]);
  return [followed, write];
}

/** The query of the address as the state of a page. */
export function useAddress(): Address {
  const [followed, writeAddress] = useAddressWriter(true);
  const [shown, setShown] = useState(followed);
  const [last, setLast] = useState(followed);
  if (followed !== last) {
    setLast(followed);
    setShown(followed);
  }
  const write = useCallback<WriteAddress>(
    (params, asNewPage = false) => {
      flushSync(() => setShown(params));
      writeAddress(params, asNewPage);
    },
    [writeAddress],
  );
  return [shown, write];
}
