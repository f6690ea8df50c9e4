/** The names of a state tag's values: a number and a name a line. */
import { Add, Close } from '@mui/icons-material';
import { Box, Button, FormHelperText, IconButton, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { TextLine } from '../../../ui';
import { freshNumber, readStates, stateProblem, writeStates, type StateLine } from './states';

interface StatesFieldProps {
  /** As the server keeps it: {"0": "Idle", "1": "Runs"}. */
  value: string;
  onChange: (value: string) => void;
  problem: string | undefined;
}

export function StatesField({ value, onChange, problem }: StatesFieldProps): ReactElement {
  const [typed, setTyped] = useState<readonly StateLine[]>(() => readStates(value));
  // Another value than what was typed here comes from elsewhere: of another version, or from an address.
  const lines = writeStates(typed) === value ? typed : readStates(value);
  const put = (next: readonly StateLine[]): void => {
    setTyped(next);
    onChange(writeStates(next));
  };
  const change = (at: number, part: Partial<StateLine>): void =>
    put(lines.map((line, i) => (i === at ? { ...line, ...part } : line)));
  return (
    <Box role="group" aria-label={wording.namesOfItsValues} sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {wording.namesOfItsValues}
      </Typography>
      {lines.map((line, i) => (
        // A line has no name of its own: where it stands is what it is.
        <Box key={i} sx={{ display: 'flex', gap: 1.5, alignItems: 'flex-end' }}>
          <Box sx={{ width: 72, flexShrink: 0 }}>
            <TextLine
              label={fill(wording.valueNumber, { number: i + 1 })}
              value={line.number}
              problem={stateProblem(lines, i)}
              unusable={stateProblem(lines, i) !== undefined}
              onChange={(number) => change(i, { number })}
            />
          </Box>
          <TextLine
            label={fill(wording.nameNumber, { number: i + 1 })}
            value={line.name}
            onChange={(name) => change(i, { name })}
          />
          <IconButton
            size="small"
            aria-label={fill(wording.removeValue, {
              part: line.name === '' ? fill(wording.theValueNumber, { number: i + 1 }) : line.name,
            })}
            onClick={() => put(lines.filter((_, at) => at !== i))}
          >
            <Close fontSize="small" />
          </IconButton>
        </Box>
      ))}
      <Box>
        <Button
          size="small"
          startIcon={<Add />}
          onClick={() => put([...lines, { number: freshNumber(lines), name: '' }])}
        >
          {wording.nameAValue}
        </Button>
      </Box>
      {problem !== undefined && <FormHelperText error>{problem}</FormHelperText>}
    </Box>
  );
}
