/** The left of a set-up page: its head with actions, and a list that scrolls. */
import { Box, Typography } from '@mui/material';
import { isValidElement, type ReactElement, type ReactNode } from 'react';
import * as common from 'texts/common.json';
import { Boundary } from '../../../ui';

interface PageProps {
  title: string;
  note?: ReactNode;
  actions?: ReactNode;
  children: ReactNode;
  /** The panel at the right. */
  panel?: ReactNode;
  /** There is nothing on it that the Tab key stops at: it does so at the list itself, so that arrows scroll it. */
  isToRead?: boolean;
}

export function Page({ title, note, actions, children, panel, isToRead = false }: PageProps): ReactElement {
  return (
    <>
      <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 2, py: 1, flexWrap: 'wrap' }}>
          <Typography component="h1" variant="h1">
            {title}
          </Typography>
          <Typography variant="caption" sx={{ color: 'text.secondary', flex: 1 }}>
            {note}
          </Typography>
          {actions}
        </Box>
        <Box
          {...(isToRead ? { tabIndex: 0, role: 'region', 'aria-label': title } : {})}
          sx={{ flex: 1, minHeight: 0, overflow: 'auto', px: 2, pb: 2 }}
        >
          {children}
        </Box>
      </Box>
      <Boundary key={panelKey(panel)} what={common.thisPanel}>
        {panel}
      </Boundary>
    </>
  );
}

/** Another panel is tried anew, though the one before it failed. */
function panelKey(panel: ReactNode): string {
  return isValidElement(panel) ? (panel.key ?? '') : '';
}
