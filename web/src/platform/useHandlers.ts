import { useEffect, useMemo, useRef } from 'react';

type Handlers = Readonly<Record<string, (...given: never[]) => unknown>>;

/** The same functions at each render, which do what those of the last render do: a part that was given them
 * is not drawn anew because its parent was. They are for events, not for drawing. */
export function useHandlers<T extends Handlers>(handlers: T): T {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  const names = Object.keys(handlers).join();
  return useMemo(() => {
    const entries = names
      .split(',')
      .map((name) => [name, (...given: never[]): unknown => latest.current[name]?.(...given)]);
    return Object.fromEntries(entries) as T;
  }, [names]);
}
