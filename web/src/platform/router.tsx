/** The browser's history as the router follows it. A change of the address is shown at once, in one step: nothing of it
 * is under way that another one could take back. */
import type { BrowserHistory } from 'history';
import { createContext, useContext, useEffect, useLayoutEffect, useMemo, useState } from 'react';
import type { ReactElement, ReactNode } from 'react';
import { NavigationType, Router, type Navigator } from 'react-router';

/** The same three kinds of change, in the words of either package. */
const TYPES = {
  POP: NavigationType.Pop,
  PUSH: NavigationType.Push,
  REPLACE: NavigationType.Replace,
} as const;

/** What is to be done before another page takes the place of this one. */
type Last = () => void;

interface Present {
  history: BrowserHistory;
  last: Set<Last>;
}

const PresentContext = createContext<Present | null>(null);

interface HistoryRouterProps {
  history: BrowserHistory;
  /** The path under which the application is served. */
  basename: string;
  children: ReactNode;
}

/** The router over a history that can hold somebody back who leaves. */
export function HistoryRouter({ history, basename, children }: HistoryRouterProps): ReactElement {
  const [{ action, location }, setNow] = useState({ action: history.action, location: history.location });
  useLayoutEffect(() => history.listen(setNow), [history]);
  const present = useMemo<Present>(() => ({ history, last: new Set() }), [history]);
  const navigator = useMemo<Navigator>(
    () => ({
      createHref: (to) => history.createHref(to),
      go: (delta) => history.go(delta),
      push: (to, state) => {
        for (const done of present.last) done();
        history.push(to, state);
      },
      replace: (to, state) => history.replace(to, state),
    }),
    [history, present],
  );
  return (
    <PresentContext value={present}>
      <Router navigator={navigator} navigationType={TYPES[action]} location={location} basename={basename}>
        {children}
      </Router>
    </PresentContext>
  );
}

function usePresent(): Present {
  const present = useContext(PresentContext);
  if (present === null) throw new Error('There is no HistoryRouter around this.');
  return present;
}

/** The history that the pages stand in. Outside of a `HistoryRouter` it is an error. */
export function useHistory(): BrowserHistory {
  return usePresent().history;
}

/** Does something before a link is followed, while the address is still that of this page. */
export function useBeforeLeaving(last: Last): void {
  const present = usePresent();
  useEffect(() => {
    present.last.add(last);
    return () => void present.last.delete(last);
  }, [present, last]);
}
