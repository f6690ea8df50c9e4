/** The slim bar at the top: sections, the palette, the recorder's health, the person, the theme. */
import { DarkModeOutlined, LightModeOutlined, Search } from '@mui/icons-material';
import { Box, Button, ButtonBase, IconButton, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Link, NavLink } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/app.json';
import { SECTIONS } from '../domain/pages';
import { meQuery } from '../entities/plant';
import { configuration } from '../platform/configuration';
import { session } from '../platform/session';
import { windowParams } from '../domain/windows';
import { railStore } from '../ui/timerail';
import { useThemeChoice } from '../ui/themeContext';
import { fill } from '../domain/fill';
import { lazyPart } from '../ui/lazyPart';
import { HealthBadge } from './HealthBadge';

const AccountMenu = lazyPart(
  wording.theAccount,
  async () => (await import('../features/people')).AccountMenu,
);

interface TopBarProps {
  onFind: () => void;
  /** The pointer or the focus has come to the link of a section. */
  onTurnedTo: (path: string) => void;
}

export function TopBar({ onFind, onTurnedTo }: TopBarProps): ReactElement {
  const { name, toggle } = useThemeChoice();
  const { data: me } = useQuery(meQuery);
  const [account, setAccount] = useState<HTMLElement | null>(null);
  // Who goes from one section to another keeps the window: the links learn it when somebody turns to them.
  const [windowQuery, setWindowQuery] = useState('');
  const readWindow = (): void => {
    const { window } = railStore.getState();
    setWindowQuery(window === null ? '' : `?${new URLSearchParams(windowParams(window)).toString()}`);
  };
  return (
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
        <Typography component="span" variant="subtitle1">
          {configuration.brand.name}
        </Typography>
      </Box>
      <Box
        component="nav"
        aria-label={wording.sections}
        onPointerEnter={readWindow}
        onPointerDownCapture={readWindow}
        onFocusCapture={readWindow}
        sx={{ display: 'flex', flexWrap: 'wrap', gap: { xs: 0, sm: 1 } }}
      >
        {SECTIONS.map((section) => (
          <Button
            key={section.path}
            component={NavLink}
            to={section.hasWindow ? section.path + windowQuery : section.path}
            size="small"
            onPointerEnter={() => onTurnedTo(section.path)}
            onFocus={() => onTurnedTo(section.path)}
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
        onClick={onFind}
        sx={{
          typography: 'body2',
          ml: 'auto',
          gap: 1,
          px: 0.5,
          py: 0.5,
          borderBottom: 1,
          borderColor: 'text.secondary',
          color: 'text.secondary',
        }}
      >
        <Search fontSize="small" />
        {common.find}
        <Box
          component="kbd"
          sx={{ typography: 'caption', display: { xs: 'none', sm: 'inline' }, fontFamily: 'inherit', ml: 3 }}
        >
          {wording.ctrlK}
        </Box>
      </ButtonBase>
      <HealthBadge />
      {me?.is_guest === true ? (
        <Button size="small" color="inherit" aria-haspopup="dialog" onClick={() => session.begin()}>
          {wording.signIn}
        </Button>
      ) : (
        <Button
          size="small"
          color="inherit"
          aria-haspopup="dialog"
          aria-label={fill(wording.accountOfName, { name: me?.name ?? '' })}
          onClick={(event) => setAccount(event.currentTarget)}
          sx={{ typography: 'body2', fontWeight: 400, maxWidth: 160 }}
        >
          <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {me?.name ?? ''}
          </Box>
        </Button>
      )}
      {account !== null && <AccountMenu anchor={account} onClose={() => setAccount(null)} />}
      <IconButton
        size="small"
        onClick={toggle}
        aria-label={name === 'day' ? wording.changeToNight : wording.changeToDay}
      >
        {name === 'day' ? <DarkModeOutlined fontSize="small" /> : <LightModeOutlined fontSize="small" />}
      </IconButton>
    </Box>
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
