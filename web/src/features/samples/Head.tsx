/** What stands above a table of samples: which ones are shown, its panels, its files. */
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { Choice, TextLine } from '../../ui';
import { QUALITY_CHOICES } from './qualities';
import type { SamplesState } from './state';

export type Opened = 'rows' | 'changes' | 'files' | 'sheets';

interface HeadProps {
  state: SamplesState;
  /** There are rows that files can be made of. */
  canSave: boolean;
  /** How many tags there are in the table. */
  count: number;
  opened: Opened | null;
  /** What is wrong with the value that was typed. */
  refused: string;
  onChange: (more: Partial<SamplesState>) => void;
  onOpen: (panel: Opened) => void;
}

export function Head(props: HeadProps): ReactElement {
  const { state, canSave, count, opened, refused, onChange, onOpen } = props;
  const panels: readonly [Opened, string][] = [
    ['rows', fill(wording.tagsAndRowsCount, { count })],
    ['changes', common.changes],
    ...(canSave ? [['files', wording.files] as [Opened, string]] : []),
    ['sheets', common.sheets],
  ];
  return (
    <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
      <Typography component="h1" variant="h1" sx={{ pt: 2 }}>
        {common.samples}
      </Typography>
      <Box sx={{ width: 200 }}>
        <TextLine
          label={common.value}
          placeholder={wording.n8080To90Text}
          value={state.value}
          problem={refused === '' ? undefined : refused}
          onChange={(value) => onChange({ value })}
        />
      </Box>
      <Box sx={{ width: 140 }}>
        <Choice
          label={common.quality}
          value={state.quality}
          options={QUALITY_CHOICES}
          onChange={(quality) => onChange({ quality })}
        />
      </Box>
      <Box sx={{ flex: 1 }} />
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 2, pt: 1.5 }}>
        {panels.map(([panel, name]) => (
          <Button
            key={panel}
            size="small"
            aria-pressed={opened === panel}
            variant={opened === panel ? 'outlined' : 'text'}
            onClick={() => onOpen(panel)}
          >
            {name}
          </Button>
        ))}
      </Box>
    </Box>
  );
}
