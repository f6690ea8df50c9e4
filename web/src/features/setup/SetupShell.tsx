/** The set-up's own row of words, in the order in which a plant is set up. */
import { Box, Button } from '@mui/material';
import type { ReactElement } from 'react';
import { NavLink, Outlet } from 'react-router';
import * as common from 'texts/common.json';
import { useCan } from '../../entities/plant';
import { Needs } from '../../entities/access/Needs';
import { UnsavedGuard } from '../../ui';
import { SETUP_PARTS } from '../../domain/pages';

export function SetupShell(): ReactElement {
  const can = useCan();
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' } }}>
      <Box
        component="nav"
        aria-label={common.setUp}
        sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, px: 1, borderBottom: 1, borderColor: 'divider' }}
      >
        {SETUP_PARTS.filter(([path]) => path !== 'people' || can('manage_people')).map(([path, name]) => (
          <Button
            key={path}
            component={NavLink}
            to={`/setup/${path}`}
            size="small"
            sx={{
              color: 'text.secondary',
              fontWeight: 400,
              borderRadius: 0,
              '&.active': { color: 'text.primary', fontWeight: 700 },
            }}
          >
            {name}
          </Button>
        ))}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: { xs: 'column', md: 'row' } }}>
        <UnsavedGuard>
          <Needs permission="configure">
            <Outlet />
          </Needs>
        </UnsavedGuard>
      </Box>
    </Box>
  );
}
