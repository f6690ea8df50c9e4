/** An address that leads nowhere: it is said, with ways on. */
import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link, useLocation } from 'react-router';
import * as wording from 'texts/ui.json';
import { fill } from '../domain/fill';

interface NoSuchPageProps {
  ways: readonly (readonly [string, string])[];
}

export function NoSuchPage({ ways }: NoSuchPageProps): ReactElement {
  const { pathname } = useLocation();
  return (
    <Box sx={{ p: 3, maxWidth: 560 }}>
      <Typography component="h1" variant="h1" sx={{ mb: 1 }}>
        {wording.noSuchPage}
      </Typography>
      <Typography sx={{ mb: 1.5, wordBreak: 'break-word' }}>
        {fill(wording.thereIsNoPageAtPathname, { pathname })}
      </Typography>
      <Box component="ul" sx={{ m: 0, pl: 2.5, lineHeight: 2 }}>
        {ways.map(([to, name]) => (
          <li key={to}>
            <MuiLink component={Link} to={to}>
              {name}
            </MuiLink>
          </li>
        ))}
      </Box>
    </Box>
  );
}
