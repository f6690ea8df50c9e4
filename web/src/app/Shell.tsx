import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore, type ReactElement } from 'react';
import { Outlet, useLocation, useNavigate } from 'react-router';
import * as wording from 'texts/app.json';
import type { ShellRequest } from '../features/trends';
import { session } from '../platform/session';
import { useThemeChoice } from '../ui/themeContext';
import { HealthDetails } from './HealthBadge';
import { ShellRail } from './rail/ShellRail';
import { TopBar } from './TopBar';
import { useServerChanges } from '../entities/following';
import { meQuery } from '../entities/plant';
import { Boundary } from '../ui/Boundary';
import { lazyPart, usePreloaded } from '../ui/lazyPart';
import { ToastPanel, Toasts } from '../ui/Toasts';
import { pageActions, type PageAction } from '../ui/pageActions';
import { railActions } from './rail/railActions';

const Palette = lazyPart(wording.theListOfWhatCanBe, async () => (await import('./Palette')).Palette);
const SignIn = lazyPart(wording.theSignIn, async () => (await import('../features/people')).SignIn);
const ChangePassword = lazyPart(
  wording.theSignIn,
  async () => (await import('../features/people')).ChangePassword,
);
const PRELOADED = [Palette, HealthDetails, ToastPanel, SignIn];

/** Top bar and page. `onTurnedTo`: somebody is about to open the page at a path. */
export function Shell({ onTurnedTo }: { onTurnedTo: (path: string) => void }): ReactElement {
  const { name, toggle } = useThemeChoice();
  useServerChanges();
  usePreloaded(true, PRELOADED);
  const { data: me } = useQuery(meQuery);
  const signedOut = useSyncExternalStore(session.subscribe, () => session.signedOut);
  const [request, setRequest] = useState<ShellRequest>({ tag: null });
  // On a trend a tag that is found becomes a pen of it; anywhere else its trend is opened.
  const { pathname } = useLocation();
  const onTrend = pathname === '/trends';
  const navigate = useNavigate();
  // What the page offers when somebody begins to find something; null: nobody does.
  const [offered, setOffered] = useState<readonly PageAction[] | null>(null);
  const find = useCallback(() => setOffered([...pageActions(), ...railActions()]), []);
  const onTag = useCallback(
    (tag: { uid: string }) => {
      if (onTrend) setRequest({ tag: { uid: tag.uid } });
      else void navigate(`/trends?tags=${tag.uid}&last=PT10M`);
    },
    [onTrend, navigate],
  );
  const actions = useMemo(
    () => [
      ...(offered ?? []),
      { name: name === 'day' ? wording.changeToNight : wording.changeToDay, run: toggle },
    ],
    [offered, name, toggle],
  );

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      find();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [find]);

  // Before anybody has signed in there is nothing to show behind it.
  if (signedOut && me === undefined) return <SignIn />;
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' }, minHeight: '100%' }}>
      <TopBar onFind={find} onTurnedTo={onTurnedTo} />
      {signedOut && <SignIn />}
      {!signedOut && me?.must_change === true && <ChangePassword isNeeded onClose={nothing} />}
      {offered !== null && <Palette actions={actions} onTag={onTag} onClose={() => setOffered(null)} />}
      <Box component="main" sx={{ flex: 1, minHeight: 0 }}>
        <Boundary what={wording.thisPage} at={pathname}>
          <Outlet context={request} />
        </Boundary>
      </Box>
      <Box sx={{ position: { xs: 'sticky', md: 'static' }, bottom: 0, zIndex: 2 }}>
        <ShellRail />
      </Box>
      <Toasts />
    </Box>
  );
}

const nothing = (): void => undefined;
