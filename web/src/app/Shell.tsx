import { DarkModeOutlined, LightModeOutlined, Search } from '@mui/icons-material';
import { Alert, Box, Button, ButtonBase, IconButton, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore, type ReactElement } from 'react';
import { Link, NavLink, Outlet, useLocation } from 'react-router';
import type { ShellRequest } from '../features/trends';
import { configuration } from '../platform/configuration';
import { session } from '../platform/session';
import { useThemeChoice } from '../ui/themeContext';
import { FindTag } from './FindTag';
import { HealthBadge } from './HealthBadge';
import { SECTIONS } from './sections';
import { useServerChanges } from '../entities/following';
import { meQuery } from '../entities/plant';

/** Top bar and page. */
export function Shell(): ReactElement {
  const { name, toggle } = useThemeChoice();
  useServerChanges();
  const signedOut = useSyncExternalStore(session.subscribe, () => session.signedOut);
  const { data: me } = useQuery(meQuery);
  const [findTag, setFindTag] = useState(0);
  const request = useMemo((): ShellRequest => ({ findTag }), [findTag]);
  // On a trend a tag that is found becomes a pen of it; anywhere else its trend is opened.
  const onTrend = useLocation().pathname === '/trends';
  const [finding, setFinding] = useState(false);
  const find = useCallback(() => {
    if (onTrend) setFindTag((count) => count + 1);
    else setFinding(true);
  }, [onTrend]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      find();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [find]);

  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' }, minHeight: '100%' }}>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: { xs: 1, sm: 2 },
          px: 2,
          minHeight: 44,
          borderBottom: 1,
          borderColor: 'divider',
          flexWrap: 'wrap',
        }}
      >
        <Box
          component={Link}
          to="/"
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 1,
            color: 'text.primary',
            textDecoration: 'none',
          }}
        >
          <Mark />
          <Typography component="span" sx={{ fontSize: 16, fontWeight: 700 }}>
            {configuration.brand.name}
          </Typography>
        </Box>
        <Box component="nav" aria-label="Sections" sx={{ display: 'flex', gap: 1 }}>
          {SECTIONS.map((section) => (
            <Button
              key={section.path}
              component={NavLink}
              to={section.path}
              size="small"
              sx={{
                color: 'text.secondary',
                borderRadius: 0,
                '&.active': {
                  color: 'text.primary',
                  boxShadow: (theme) => `inset 0 -2px ${theme.palette.primary.main}`,
                },
              }}
            >
              {section.name}
            </Button>
          ))}
        </Box>
        <ButtonBase
          onClick={find}
          sx={{
            ml: 'auto',
            gap: 1,
            px: 0.5,
            py: 0.5,
            borderBottom: 1,
            borderColor: 'text.secondary',
            color: 'text.secondary',
            fontSize: 13,
          }}
        >
          <Search sx={{ fontSize: 16 }} />
          Find a tag
          <Box
            component="kbd"
            sx={{ display: { xs: 'none', sm: 'inline' }, fontFamily: 'inherit', fontSize: 11, ml: 3 }}
          >
            Ctrl K
          </Box>
        </ButtonBase>
        <HealthBadge />
        <Typography sx={{ fontSize: 13, display: { xs: 'none', sm: 'block' } }}>{me?.name ?? ''}</Typography>
        <IconButton
          size="small"
          onClick={toggle}
          aria-label={name === 'day' ? 'Change to night' : 'Change to day'}
        >
          {name === 'day' ? (
            <DarkModeOutlined sx={{ fontSize: 18 }} />
          ) : (
            <LightModeOutlined sx={{ fontSize: 18 }} />
          )}
        </IconButton>
      </Box>
      {signedOut && <SignedOut />}
      {finding && <FindTag onClose={() => setFinding(false)} />}
      <Box component="main" sx={{ flex: 1, minHeight: 0 }}>
        <Outlet context={request} />
      </Box>
    </Box>
  );
}

/** What is on the page stays, so that what was typed can be copied. */
function SignedOut(): ReactElement {
  return (
    <Alert
      severity="warning"
      action={
        <Button color="inherit" onClick={() => window.location.reload()}>
          Reload
        </Button>
      }
    >
      You are signed out: nothing can be saved. What you typed is still here; copy it before you reload.
    </Alert>
  );
}

function Mark(): ReactElement {
  return (
    <Box
      component="svg"
      viewBox="0 0 32 32"
      aria-hidden="true"
      sx={{ width: 22, height: 22, color: 'primary.main' }}
    >
      <path d="M2 27h28" stroke="currentColor" strokeWidth="2.5" />
      <path
        d="M3 20h5l4-13 5 15 4-10 2 5h6"
        fill="none"
        stroke="currentColor"
        strokeWidth="2.5"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </Box>
  );
}
