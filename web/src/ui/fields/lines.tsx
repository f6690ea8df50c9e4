/** Fields of forms: label above, what is wrong below. */
import { FormControl, FormHelperText, Input, InputLabel, NativeSelect } from '@mui/material';
import { useId, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';
import { clockOf, minuteOf } from '../../domain/clock';
import { parseWritten, written } from '../../domain/durations';
import { parseNumber } from '../../domain/numbers';
import { UNUSABLE } from './unusable';

export interface LineProps {
  label: string;
  /** What is wrong with it, by the server. */
  problem?: string | undefined;
  hint?: string | undefined;
  disabled?: boolean;
}

interface TextLineProps extends LineProps {
  value: string;
  onChange: (value: string) => void;
  autoFocus?: boolean;
  placeholder?: string;
  /** What is typed is not shown. */
  hidden?: boolean;
  /** What the browser, or a keeper of passwords, may fill in (HTML, autocomplete). */
  fills?: string;
  /** What is typed cannot be used: the form is not saved with it. */
  unusable?: boolean;
  /** It may have several lines. */
  multiline?: boolean;
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
    fills = hidden ? 'new-password' : 'off',
    unusable = false,
    multiline = false,
  } = props;
  return (
    <Line {...{ label, problem, hint, disabled }}>
      {(named) => (
        <Input
          {...named}
          {...(multiline ? { multiline, minRows: 2 } : {})}
          value={value}
          placeholder={placeholder}
          type={hidden ? 'password' : 'text'}
          autoComplete={fills}
          autoFocus={autoFocus}
          onChange={(event) => onChange(event.target.value)}
          slotProps={{ input: unusable ? UNUSABLE : {} }}
        />
      )}
    </Line>
  );
}

/** What ties a field to its label and to what is said below it. */
interface Named {
  id: string;
  'aria-describedby': string | undefined;
}

interface FrameProps extends LineProps {
  children: (named: Named) => ReactElement;
}

function Line({ label, problem, hint, disabled = false, children }: FrameProps): ReactElement {
  const id = useId();
  const said = problem ?? hint;
  const belowId = `${id}-below`;
  return (
    <FormControl variant="standard" size="small" fullWidth disabled={disabled} error={problem !== undefined}>
      <InputLabel shrink htmlFor={id}>
        {label}
      </InputLabel>
      {children({ id, 'aria-describedby': said === undefined ? undefined : belowId })}
      {said !== undefined && <FormHelperText id={belowId}>{said}</FormHelperText>}
    </FormControl>
  );
}

/** A number, or the text that was typed instead of one. */
export type Typed = number | string;

export const NUMBER_PROBLEM = common.thisIsNotANumber;
export const DURATION_PROBLEM = wording.write500Ms10S5;

interface MistypedProps {
  /** What was typed and is not a number. Without it the field keeps that for itself, and the form is not saved. */
  onMistyped?: ((text: string) => void) | undefined;
}

interface NumberLineProps extends LineProps, MistypedProps {
  value: Typed;
  onChange: (value: number) => void;
}

/** A number as it is typed; what is not a number stays in the field and is said. */
export function NumberLine({ value, onChange, onMistyped, problem, ...line }: NumberLineProps): ReactElement {
  const [text, setText] = useState(String(value));
  const typed = parseNumber(text);
  const wrong = typed === null;
  const shown = !wrong && typed !== value ? String(value) : text;
  return (
    <TextLine
      {...line}
      value={shown}
      unusable={wrong && onMistyped === undefined}
      problem={wrong ? NUMBER_PROBLEM : problem}
      onChange={(next) => {
        setText(next);
        const number = parseNumber(next);
        if (number !== null) onChange(number);
        else onMistyped?.(next);
      }}
    />
  );
}

interface OptionalNumberLineProps extends LineProps, MistypedProps {
  value: Typed | null;
  onChange: (value: number | null) => void;
}

/** A number, or none where the field is empty. */
export function OptionalNumberLine(props: OptionalNumberLineProps): ReactElement {
  const { value, onChange, onMistyped, problem, ...line } = props;
  const [text, setText] = useState(value === null ? '' : String(value));
  const empty = text.trim() === '';
  const typed = parseNumber(text);
  const wrong = !empty && typed === null;
  return (
    <TextLine
      {...line}
      value={wrong || typed === value ? text : value === null ? '' : String(value)}
      placeholder={common.none}
      unusable={wrong && onMistyped === undefined}
      problem={wrong ? NUMBER_PROBLEM : problem}
      onChange={(next) => {
        setText(next);
        const number = parseNumber(next);
        if (next.trim() === '' || number !== null) onChange(number);
        else onMistyped?.(next);
      }}
    />
  );
}

interface DurationLineProps extends NumberLineProps {
  /** What an empty field means. */
  none?: string;
}

/** A duration such as 500 ms or 10 min, in µs; empty is 0 where that means none. */
export function DurationLine(props: DurationLineProps): ReactElement {
  const { value, onChange, onMistyped, problem, none, ...line } = props;
  const textOf = (us: Typed): string =>
    typeof us === 'string' ? us : us === 0 && none !== undefined ? '' : written(us);
  const [text, setText] = useState(textOf(value));
  const parsed = text.trim() === '' && none !== undefined ? 0 : parseWritten(text);
  return (
    <TextLine
      {...line}
      value={parsed !== null && parsed !== value ? textOf(value) : text}
      placeholder={none ?? ''}
      unusable={parsed === null && onMistyped === undefined}
      problem={parsed === null ? DURATION_PROBLEM : problem}
      onChange={(next) => {
        setText(next);
        const us = next.trim() === '' && none !== undefined ? 0 : parseWritten(next);
        if (us !== null) onChange(us);
        else onMistyped?.(next);
      }}
    />
  );
}

export const CLOCK_PROBLEM = wording.write0600;

/** A time of the day in minutes, written 06:00. */
export function ClockLine({ value, onChange, onMistyped, problem, ...line }: NumberLineProps): ReactElement {
  const textOf = (minute: Typed): string => (typeof minute === 'string' ? minute : clockOf(minute));
  const [text, setText] = useState(textOf(value));
  const typed = minuteOf(text);
  return (
    <TextLine
      {...line}
      value={typed !== null && typed !== value ? textOf(value) : text}
      unusable={typed === null && onMistyped === undefined}
      problem={typed === null ? CLOCK_PROBLEM : problem}
      onChange={(next) => {
        setText(next);
        const minute = minuteOf(next);
        if (minute !== null) onChange(minute);
        else onMistyped?.(next);
      }}
    />
  );
}

interface ChoiceProps<T extends string> extends LineProps {
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
}

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  problem,
  hint,
  disabled = false,
}: ChoiceProps<T>): ReactElement {
  const isKnown = options.some((one) => one.value === value);
  return (
    <Line {...{ label, problem, hint, disabled }}>
      {({ id, 'aria-describedby': below }) => (
        <NativeSelect
          inputProps={{ id, 'aria-describedby': below }}
          value={isKnown ? value : ''}
          onChange={(event) => onChange(event.target.value as T)}
        >
          {/* What is not among the options is no reason to show the first of them as chosen. */}
          {!isKnown && <option value="" hidden />}
          {options.map((one) => (
            <option key={one.value} value={one.value}>
              {one.label}
            </option>
          ))}
        </NativeSelect>
      )}
    </Line>
  );
}
