/** A switch with its label beside it. */
import { FormControlLabel, Switch } from '@mui/material';
import type { ReactElement } from 'react';

interface SwitchedProps {
  label: string;
  value: boolean;
  onChange: (value: boolean) => void;
}

export function Switched({ label, value, onChange }: SwitchedProps): ReactElement {
  return (
    <FormControlLabel
      control={<Switch size="small" checked={value} onChange={(event) => onChange(event.target.checked)} />}
      label={label}
    />
  );
}
