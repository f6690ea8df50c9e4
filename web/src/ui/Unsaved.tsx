/** What is typed and not saved is not lost by leaving: whoever would leave it is asked first. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { ReactElement, ReactNode } from 'react';
import { useBlocker } from 'react-router';

interface Guard {
  /** A form says whether it holds something that is not saved. */
  tell: (form: object, unsaved: boolean) => void;
  /** Does it, or asks first where something would be lost. */
  leave: (go: () => void) => void;
}

const GuardContext = createContext<Guard>({ tell: () => undefined, leave: (go) => go() });

/** Around pages whose forms are not to be left unasked. */
export function UnsavedGuard({ children }: { children: ReactNode }): ReactElement {
  const unsaved = useRef(new Set<object>());
  const [waiting, setWaiting] = useState<(() => void) | null>(null);
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      unsaved.current.size > 0 &&
      (currentLocation.pathname !== nextLocation.pathname || currentLocation.search !== nextLocation.search),
  );
  const guard = useMemo<Guard>(
    () => ({
      tell: (form, is) => {
        if (is) unsaved.current.add(form);
        else unsaved.current.delete(form);
      },
      leave: (go) => {
        if (unsaved.current.size === 0) go();
        else setWaiting(() => go);
      },
    }),
    [],
  );
  useEffect(() => {
    const stay = (event: BeforeUnloadEvent): void => {
      if (unsaved.current.size > 0) event.preventDefault();
    };
    window.addEventListener('beforeunload', stay);
    return () => window.removeEventListener('beforeunload', stay);
  }, []);
  const stay = (): void => {
    setWaiting(null);
    blocker.reset?.();
  };
  const discard = (): void => {
    unsaved.current.clear();
    setWaiting(null);
    waiting?.();
    blocker.proceed?.();
  };
  return (
    <GuardContext value={guard}>
      {children}
      <Dialog open={waiting !== null || blocker.state === 'blocked'} onClose={stay} aria-labelledby="unsaved">
        <DialogTitle id="unsaved">Discard what is not saved?</DialogTitle>
        <DialogContent>What was changed in the form is not saved yet.</DialogContent>
        <DialogActions>
          <Button autoFocus onClick={stay}>
            Stay
          </Button>
          <Button color="error" onClick={discard}>
            Discard
          </Button>
        </DialogActions>
      </Dialog>
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

/** What of a list is open beside it: `show` asks before a form is left, `put` does not (after saving). */
export function useOpen(): {
  open: string | null;
  show: (next: string | null) => void;
  put: (next: string | null) => void;
} {
  const leave = useLeave();
  const [open, put] = useState<string | null>(null);
  const show = useCallback((next: string | null) => leave(() => put(next)), [leave]);
  return { open, show, put };
}
