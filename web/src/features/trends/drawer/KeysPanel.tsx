import { Close } from '@mui/icons-material';
import { Box, Checkbox, FormControlLabel, IconButton, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/trends.json';
import { setSingleKeys, singleKeysOn } from '../model/keys';

const KEYS: readonly [string, string][] = [
  ['L', wording.liveOrHold],
  ['[ and ]', wording.previousWindowNextWindow],
  [wording.and, wording.zoomInZoomOut],
  ['0', wording.undoZoom],
  ['F', wording.fitTheScalesToWhatIs],
  [wording.aAndB, wording.putACursorThereOnceMore],
  ['G', wording.figures],
  [wording.oneToNine, wording.highlightAPen],
  [wording.leftAndRight, wording.moveTheCursorWithShiftIn],
  ['P', wording.addAPen],
  ['W', wording.fullScreen],
  ['N', wording.dayOrNight],
  ['?', wording.thisList],
  [wording.esc, wording.closeTheListPutTheCursor],
];

/** All keys, and the switch that turns single-letter keys off. */
export function KeysPanel({ onClose }: { onClose: () => void }): ReactElement {
  const [on, setOn] = useState(singleKeysOn);
  return (
    <Box sx={{ p: 1.5 }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center' }}>
        <Typography component="h2" variant="h2">
          {wording.keys}
        </Typography>
        <IconButton size="small" aria-label={wording.closeTheListOfKeys} onClick={onClose}>
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
        label={wording.singleLetterKeysAct}
      />
    </Box>
  );
}
