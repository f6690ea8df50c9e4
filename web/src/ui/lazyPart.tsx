/** Parts of a page that nobody needs at first: they are loaded when the page has come to rest, so that they are there
 * when they are asked for, also while the server is away. */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState, type ComponentType, type ReactElement } from 'react';
import { Failed } from './Boundary';

export interface LazyPart<Props> {
  (props: Props): ReactElement | null;
  /** Loads it now; asked for again after it failed, it tries again. */
  load: () => Promise<void>;
}

/** `what` it is, as it stands in a sentence: said where it cannot be loaded. `meanwhile` stands in its place until it is
 * there. */
export function lazyPart<Props extends object>(
  what: string,
  fetched: () => Promise<ComponentType<Props>>,
  meanwhile: ReactElement | null = null,
): LazyPart<Props> {
  let found: ComponentType<Props> | null = null;
  let underWay: Promise<void> | null = null;
  const load = (): Promise<void> => {
    underWay ??= fetched().then(
      (part) => void (found = part),
      (error: unknown) => {
        underWay = null;
        throw error;
      },
    );
    return underWay;
  };
  const Part = (props: Props): ReactElement | null => {
    const [state, setState] = useState<{ error: unknown } | null>(null);
    const [tries, setTries] = useState(0);
    // It may arrive between being drawn and the effect below: what counts is what was drawn.
    const [isDrawn] = useState(found !== null);
    useEffect(() => {
      let left = false;
      const tell = (error: unknown): void => {
        if (!left) setState({ error });
      };
      if (!isDrawn) load().then(() => tell(null), tell);
      return () => void (left = true);
    }, [tries, isDrawn]);
    if (found !== null) {
      const Found = found;
      return <Found {...props} />;
    }
    if (state === null || state.error === null) return meanwhile;
    const again = (): void => {
      setState(null);
      setTries(tries + 1);
    };
    return <Failed what={what} error={state.error} onAgain={again} />;
  };
  return Object.assign(Part, { load });
}

const PATIENCE_MS = 2_000;
const AGAIN_MS = 100;

/** Loads parts once the page is at rest, one after the other: nothing that it shows is still being asked for. What
 * cannot be loaded then is tried again when it is asked for, and says there what is wrong. */
export function usePreloaded(ready: boolean, parts: readonly LazyPart<never>[]): void {
  const queries = useQueryClient();
  useEffect(() => {
    if (!ready) return;
    const load = async (): Promise<void> => {
      for (const part of parts) await part.load().catch(() => undefined);
    };
    const latest = performance.now() + PATIENCE_MS;
    let timer = 0;
    const wait = (): void => {
      if (queries.isFetching() === 0 || performance.now() >= latest) idle(() => void load());
      else timer = window.setTimeout(wait, AGAIN_MS);
    };
    timer = window.setTimeout(wait, AGAIN_MS);
    return () => window.clearTimeout(timer);
  }, [ready, parts, queries]);
}

/** Once nothing is being drawn, where the browser can tell. */
function idle(work: () => void): void {
  if (typeof window.requestIdleCallback === 'function') window.requestIdleCallback(work);
  else work();
}
