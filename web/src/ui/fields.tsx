/** Fields of forms: label above, what is wrong below. */
import { FormControlLabel, MenuItem, Switch, TextField } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { parseWritten, written } from '../domain/durations';
import { parseNumber } from '../domain/numbers';
import { UNUSABLE } from './unusable';

interface LineProps {
  label: string;
  /** What is wrong with it, by the server. */
  problem?: string | undefined;
  hint?: string;
  disabled?: boolean;
}

interface TextLineProps extends LineProps {
  value: string;
  onChange: (value: string) => void;
  autoFocus?: boolean;
  placeholder?: string;
  /** What is typed is not shown. */
  hidden?: boolean;
  /** What is typed cannot be used: the form is not saved with it. */
  unusable?: boolean;
}

export function TextLine(props: TextLineProps): ReactElement {
  const {
    label,
    value,
    onChange,
    problem,
    hint,
    disabled = false,
    autoFocus = false,
    placeholder = '',
    hidden = false,
    unusable = false,
  } = props;
  return (
    <TextField
      variant="standard"
      size="small"
      fullWidth
      label={label}
      value={value}
      placeholder={placeholder}
      type={hidden ? 'password' : 'text'}
      autoComplete={hidden ? 'new-password' : 'off'}
      autoFocus={autoFocus}
      disabled={disabled}
      error={problem !== undefined}
      helperText={problem ?? hint}
      onChange={(event) => onChange(event.target.value)}
      slotProps={{ inputLabel: { shrink: true }, htmlInput: unusable ? UNUSABLE : {} }}
    />
  );
}

interface NumberLineProps extends LineProps {
  value: number;
  onChange: (value: number) => void;
}

/** A number as it is typed; what is not a number stays in the field and is said. */
export function NumberLine({ value, onChange, problem, ...line }: NumberLineProps): ReactElement {
  const [text, setText] = useState(String(value));
  const typed = parseNumber(text);
  const wrong = typed === null;
  const shown = !wrong && typed !== value ? String(value) : text;
  return (
    <TextLine
      {...line}
      value={shown}
      unusable={wrong}
      problem={wrong ? 'This is not a number.' : problem}
      onChange={(next) => {
        setText(next);
        const number = parseNumber(next);
        if (number !== null) onChange(number);
      }}
    />
  );
}

interface OptionalNumberLineProps extends LineProps {
  value: number | null;
  onChange: (value: number | null) => void;
}

/** A number, or none where the field is empty. */
export function OptionalNumberLine(props: OptionalNumberLineProps): ReactElement {
  const { value, onChange, problem, ...line } = props;
  const [text, setText] = useState(value === null ? '' : String(value));
  const empty = text.trim() === '';
  const typed = parseNumber(text);
  const wrong = !empty && typed === null;
  return (
    <TextLine
      {...line}
      value={wrong || typed === value ? text : value === null ? '' : String(value)}
      placeholder="none"
      unusable={wrong}
      problem={wrong ? 'This is not a number.' : problem}
      onChange={(next) => {
        setText(next);
        const number = parseNumber(next);
        if (next.trim() === '' || number !== null) onChange(number);
      }}
    />
  );
}

/** A duration such as 500 ms or 10 min; empty is 0 where that means none. */
export function DurationLine(props: NumberLineProps & { none?: string }): ReactElement {
  const { value, onChange, problem, none, ...line } = props;
  const [text, setText] = useState(value === 0 && none !== undefined ? '' : written(value));
  const parsed = text.trim() === '' && none !== undefined ? 0 : parseWritten(text);
  const shown = parsed !== null && parsed !== value ? (value === 0 ? '' : written(value)) : text;
  return (
    <TextLine
      {...line}
      value={shown}
      placeholder={none ?? ''}
      unusable={parsed === null}
      problem={parsed === null ? 'Write 500 ms, 10 s, 5 min, 2 h or 30 d.' : problem}
      onChange={(next) => {
        setText(next);
        const us = next.trim() === '' && none !== undefined ? 0 : parseWritten(next);
        if (us !== null) onChange(us);
      }}
    />
  );
}

interface ChoiceProps extends LineProps {
  value: string;
  options: readonly { value: string; label: string }[];
  onChange: (value: string) => void;
}

export function Choice({
  label,
  value,
  options,
  onChange,
  problem,
  hint,
  disabled = false,
}: ChoiceProps): ReactElement {
  return (
    <TextField
      select
      variant="standard"
      size="small"
      fullWidth
      label={label}
      value={options.some((one) => one.value === value) ? value : ''}
      disabled={disabled}
      error={problem !== undefined}
      helperText={problem ?? hint}
      onChange={(event) => onChange(event.target.value)}
      slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
    >
      {options.map((one) => (
        <MenuItem key={one.value} value={one.value} dense>
          {one.label}
        </MenuItem>
      ))}
    </TextField>
  );
}

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
      sx={{ '& .MuiFormControlLabel-label': { fontSize: 13 } }}
    />
  );
}
