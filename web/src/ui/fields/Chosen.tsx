/** What was chosen, each with a button that takes it away; the last one only where nothing may be chosen. */
import { Close } from '@mui/icons-material';
import { Box, IconButton, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import { fill } from '../../domain/fill';

interface ChosenProps {
  label: string;
  entries: readonly { key: string; name: string }[];
  onRemove: (key: string) => void;
  mayBeNone?: boolean;
}

export function Chosen({ label, entries, onRemove, mayBeNone = false }: ChosenProps): ReactElement {
  return (
    <Box component="ul" aria-label={label} sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {entries.map(({ key, name }) => (
        <Box
          component="li"
          key={key}
          sx={{ display: 'flex', alignItems: 'center', borderTop: 1, borderColor: 'divider' }}
        >
          <Typography noWrap variant="body2" sx={{ flex: 1 }}>
            {name}
          </Typography>
          {(mayBeNone || entries.length > 1) && (
            <IconButton
              size="small"
              aria-label={fill(common.removeName, { name })}
              onClick={() => onRemove(key)}
            >
              <Close fontSize="small" />
            </IconButton>
          )}
        </Box>
      ))}
    </Box>
  );
}
