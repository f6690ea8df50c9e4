/** The query of the address as state: the page follows at once, the address a moment later. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { useSearchParams } from 'react-router';
import { seenOf, wrote, type Written } from '../model/written';

/** Browsers drop changes of the address beyond some 200 in some seconds, so it changes now and then only; the last
 * change always arrives. */
const EVERY_MS = 250;

type Write = (params: URLSearchParams, asNewPage?: boolean) => void;

/** What the page shows, and how it changes: in place, or as a page that the browser can go back from. */
export function useAddress(): [URLSearchParams, Write] {
  const [address, setAddress] = useSearchParams();
  const [shown, setShown] = useState(address);
  const [seen, setSeen] = useState(address.toString());
  const waiting = useRef<{ params: URLSearchParams; timer: number } | null>(null);
  const put = useRef(setAddress);
  const written = useRef<Written>([address.toString()]);
  useEffect(() => {
    put.current = setAddress;
  }, [setAddress]);

  const text = address.toString();
  if (text !== seen) {
    setSeen(text);
    // It was changed by a link or by going back, not by this page.
    // eslint-disable-next-line react-hooks/refs -- what was written is compared, and never drawn
    if (seenOf(written.current, text) === null) setShown(address);
  }

  useEffect(() => {
    const left = seenOf(written.current, text);
    written.current = left ?? [text];
    if (left !== null) return;
    if (waiting.current !== null) window.clearTimeout(waiting.current.timer);
    waiting.current = null;
  }, [text]);

  const arrive = useCallback(() => {
    const next = waiting.current;
    if (next === null) return;
    window.clearTimeout(next.timer);
    waiting.current = null;
    written.current = wrote(written.current, next.params.toString());
    put.current(next.params, { replace: true });
  }, []);
  const write = useCallback<Write>(
    (params, asNewPage = false) => {
      if (asNewPage) {
        arrive();
        written.current = wrote(written.current, params.toString());
        put.current(params);
        setShown(params);
        return;
      }
      flushSync(() => setShown(params));
      if (waiting.current === null) {
        waiting.current = { params, timer: window.setTimeout(arrive, EVERY_MS) };
      } else waiting.current.params = params;
    },
    [arrive],
  );
  useEffect(() => {
    // Who leaves the page, or copies its address with the keys, has the newest one.
    const hide = (): void => {
      const next = waiting.current;
      if (next === null) return;
      const url = `${window.location.pathname}?${next.params.toString()}`;
      window.history.replaceState(window.history.state, '', url);
    };
    window.addEventListener('pagehide', hide);
    window.addEventListener('blur', arrive);
    return () => {
      window.removeEventListener('pagehide', hide);
      window.removeEventListener('blur', arrive);
      if (waiting.current !== null) window.clearTimeout(waiting.current.timer);
      waiting.current = null;
    };
  }, [arrive]);
  return [shown, write];
}
