/** What is typed and not saved is not lost by leaving: whoever would leave it is asked first. */
import type { BrowserHistory, Transition } from 'history';
import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { ReactElement, ReactNode } from 'react';
import * as wording from 'texts/ui.json';
import { withParam, type Address } from '../platform/useAddress';
import { useHistory } from '../platform/router';
import { lazyPart, usePreloaded } from './lazyPart';

const Question = lazyPart(
  wording.theQuestionAboutWhatIsNot,
  async () => (await import('./UnsavedQuestion')).UnsavedQuestion,
);
const PRELOADED = [Question];

interface Guard {
  /** A form says whether it holds something that is not saved. */
  tell: (form: object, unsaved: boolean) => void;
  /** Does it, or asks first where something would be lost. */
  leave: (go: () => void) => void;
}

const GuardContext = createContext<Guard>({ tell: () => undefined, leave: (go) => go() });

/** Which forms hold something that is not saved; while one does, no other page is gone to before `ask` was answered. */
class Held {
  private readonly forms = new Set<object>();
  private release: (() => void) | null = null;

  constructor(
    private readonly history: BrowserHistory,
    private readonly ask: (go: () => void) => void,
  ) {}

  tell(form: object, unsaved: boolean): void {
    if (unsaved) this.forms.add(form);
    else this.forms.delete(form);
    this.hold();
  }

  /** Whatever is not saved may be lost. */
  discard(): void {
    this.forms.clear();
    this.hold();
  }

  leave(go: () => void): void {
    if (this.forms.size === 0) go();
    else this.ask(go);
  }

  /** The browser asks by itself where the whole application is left. */
  private hold(): void {
    if (this.forms.size === 0) {
      this.release?.();
      this.release = null;
    } else this.release ??= this.history.block((next) => this.onNavigation(next));
  }

  private onNavigation(next: Transition): void {
    // What is open stands in the address; the history does not know what was changed there in its place.
    const now = window.location;
    if (next.location.pathname !== now.pathname || next.location.search !== now.search) {
      this.ask(() => next.retry());
      return;
    }
    // The same page again loses nothing.
    this.release?.();
    this.release = null;
    next.retry();
    this.hold();
  }
}

/** Around pages whose forms are not to be left unasked. */
export function UnsavedGuard({ children }: { children: ReactNode }): ReactElement {
  const history = useHistory();
  const [waiting, setWaiting] = useState<(() => void) | null>(null);
  const held = useMemo(() => new Held(history, (go) => setWaiting(() => go)), [history]);
  usePreloaded(true, PRELOADED);
  useEffect(() => () => held.discard(), [held]);
  const guard = useMemo<Guard>(
    () => ({ tell: (form, unsaved) => held.tell(form, unsaved), leave: (go) => held.leave(go) }),
    [held],
  );
  const stay = (): void => setWaiting(null);
  const discard = (): void => {
    held.discard();
    setWaiting(null);
    waiting?.();
  };
  return (
    <GuardContext value={guard}>
      {children}
      {waiting !== null && <Question onStay={stay} onDiscard={discard} />}
    </GuardContext>
  );
}

/** A form that says whether it holds something that is not saved. */
export function useUnsaved(unsaved: boolean): void {
  const { tell } = useContext(GuardContext);
  const form = useRef({});
  useEffect(() => {
    const one = form.current;
    tell(one, unsaved);
    return () => tell(one, false);
  }, [tell, unsaved]);
}

/** Does something by which a form is left, after asking where that would lose something. */
export function useLeave(): (go: () => void) => void {
  return useContext(GuardContext).leave;
}

const OPEN = 'open';
const LIKE = 'like';

/** The same address, where a new object is entered that begins as a copy of this one. */
export function copyParams(search: string, uid: string): URLSearchParams {
  return withParam(withParam(new URLSearchParams(search), OPEN, 'new'), LIKE, uid);
}

/** What of a list is open beside it, by uid, or `new`; it stands in the address, so that a link leads to it. `show` asks
 * before a form is left, `put` does not (after saving). */
export function useOpen([params, write]: Address): {
  open: string | null;
  /** A new one begins as a copy of this one. */
  like: string | null;
  show: (next: string | null) => void;
  put: (next: string | null) => void;
} {
  const leave = useLeave();
  const open = params.get(OPEN);
  const put = useCallback(
    (next: string | null) => {
      const others = new URLSearchParams(params);
      others.delete(OPEN);
      others.delete(LIKE);
      write(next === null ? others : withParam(others, OPEN, next));
    },
    [params, write],
  );
  const show = useCallback((next: string | null) => leave(() => put(next)), [leave, put]);
  return { open, like: open === 'new' ? params.get(LIKE) : null, show, put };
}
