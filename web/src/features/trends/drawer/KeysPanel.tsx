import { Close } from '@mui/icons-material';
import { Box, Checkbox, FormControlLabel, IconButton, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { setSingleKeys, singleKeysOn } from '../model/keys';

const KEYS: readonly [string, string][] = [
  ['L', 'live or hold'],
  ['[ and ]', 'previous window, next window'],
  ['+ and -', 'zoom in, zoom out'],
  ['0', 'undo zoom'],
  ['F', "fit the scales to what is visible, or the tags' own ranges"],
  ['A and B', 'put a cursor there, once more takes it away; figures lie between them'],
  ['G', 'figures'],
  ['1 to 9', 'highlight a pen'],
  ['Left and Right', 'move the cursor; with Shift in larger steps'],
  ['P', 'add a pen'],
  ['N', 'day or night'],
  ['?', 'this list'],
  ['Esc', 'close the list, put the cursor away, place none'],
];

/** All keys, and the switch that turns single-letter keys off. */
export function KeysPanel({ onClose }: { onClose: () => void }): ReactElement {
  const [on, setOn] = useState(singleKeysOn);
  return (
    <Box sx={{ p: 1.5 }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center' }}>
        <Typography component="h2" variant="h2">
          Keys
        </Typography>
        <IconButton size="small" aria-label="Close the list of keys" onClick={onClose}>
          <Close fontSize="small" />
        </IconButton>
      </Box>
      <Box
        component="dl"
        sx={{
          typography: 'body2',
          display: 'grid',
          gridTemplateColumns: 'auto 1fr',
          columnGap: 2,
          rowGap: 0.75,
        }}
      >
        {KEYS.map(([key, what]) => (
          <Box key={key} sx={{ display: 'contents' }}>
            <Typography component="dt" variant="caption" sx={{ fontFamily: 'B612 Mono' }}>
              {key}
            </Typography>
            <Typography component="dd" variant="body2" sx={{ m: 0 }}>
              {what}
            </Typography>
          </Box>
        ))}
      </Box>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={on}
            onChange={(_, checked) => {
              setSingleKeys(checked);
              setOn(checked);
            }}
          />
        }
        slotProps={{ typography: { variant: 'body2' } }}
        label="Single-letter keys act"
      />
    </Box>
  );
}
