/** A state as a word, with a stroke of its own before it: never by colour alone. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup.json';

const WORDS: Record<string, [string, 'good' | 'quiet' | 'bad']> = {
  up: [wording.connected, 'good'],
  recording: [wording.recording, 'good'],
  connecting: [wording.connectingState, 'quiet'],
  disabled: [common.switchedOff, 'quiet'],
  stopped: [wording.stoppedState, 'quiet'],
  failed: [wording.failed, 'bad'],
  inhibited: [wording.inhibitedState, 'quiet'],
  paused: [wording.pausedState, 'quiet'],
  waiting: [wording.waitsForItsTrigger, 'quiet'],
  unknown: [wording.notKnown, 'quiet'],
  down: [wording.down, 'bad'],
};

export function StateWord({ state }: { state: string }): ReactElement {
  const [word, kind] = WORDS[state] ?? [state, 'quiet'];
  const colour = { good: 'primary.main', quiet: 'text.secondary', bad: 'error.main' }[kind];
  return (
    <Box
      component="span"
      sx={{ color: kind === 'bad' ? 'error.main' : 'text.primary', whiteSpace: 'nowrap' }}
    >
      <Box
        component="span"
        aria-hidden="true"
        sx={{
          display: 'inline-block',
          width: 10,
          mr: 1,
          verticalAlign: 'middle',
          borderTop: kind === 'good' ? 3 : 2,
          borderStyle: kind === 'good' ? 'solid' : 'dashed',
          borderColor: colour,
          borderWidth: kind === 'good' ? '3px 0 0' : '2px 0 0',
        }}
      />
      {word}
    </Box>
  );
}
