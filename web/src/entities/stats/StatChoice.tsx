/** Choosing a statistic, with what it needs to know: which percentile, which state, weighted by what, per what. */
import { FormControl, InputLabel, NativeSelect } from '@mui/material';
import { useId, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { Choice, Pairs, TextLine } from '../../ui';
import { figureIn } from '../figures';
import { GROUPS, nameOf, optionsOf, statProblem, type Option } from './labels';

interface StatChoiceProps {
  label: string;
  /** A figure with its options in one line. */
  value: string;
  /** Names of states by their number, where the tag has some. */
  states?: Readonly<Record<string, string>>;
  onChange: (value: string) => void;
}

export function StatChoice({ label, value, states = {}, onChange }: StatChoiceProps): ReactElement {
  const id = useId();
  const options = optionsOf(value);
  return (
    <>
      <FormControl variant="standard" size="small" fullWidth>
        <InputLabel shrink htmlFor={id}>
          {label}
        </InputLabel>
        <NativeSelect
          inputProps={{ id }}
          value={nameOf(value)}
          onChange={(event) => onChange(usual(event.target.value, states))}
        >
          {GROUPS.map(({ name, statistics }) => (
            <optgroup key={name} label={name}>
              {statistics.map(({ stat, label: words }) => (
                <option key={stat} value={stat}>
                  {words}
                </option>
              ))}
            </optgroup>
          ))}
        </NativeSelect>
      </FormControl>
      {options.length > 0 && (
        <Pairs>
          {options.map((option) => (
            <OptionField key={option} {...{ option, value, states, onChange }} />
          ))}
        </Pairs>
      )}
    </>
  );
}

interface OptionFieldProps extends Required<Omit<StatChoiceProps, 'label'>> {
  option: Option;
}

function OptionField({ option, value, states, onChange }: OptionFieldProps): ReactElement {
  const [name = '', first = ''] = value.split(' ');
  const { weight, base } = figureIn(value);
  const problem = statProblem(value);
  switch (option) {
    case 'percent':
      return (
        <TextLine
          label={common.percent}
          value={first}
          problem={problem === '' ? undefined : problem}
          onChange={(text) => onChange(line(name, oneWord(text), weight === 'samples' ? weight : ''))}
        />
      );
    case 'state':
      return <StateField {...{ name, state: first, states, problem, onChange }} />;
    case 'weight':
      return (
        <Choice
          label={wording.weighted}
          value={weight}
          options={WEIGHTS}
          onChange={(next) =>
            onChange(line(name, name === 'Percentile' ? first : '', next === 'samples' ? next : ''))
          }
        />
      );
    case 'base':
      return (
        <Choice
          label={name === 'Integral' ? wording.timeIn : wording.per}
          value={base ?? ''}
          options={name === 'Integral' ? INTEGRAL_BASES : BASES}
          onChange={(next) => onChange(line(name, next))}
        />
      );
  }
}

interface StateFieldProps {
  name: string;
  state: string;
  states: Readonly<Record<string, string>>;
  problem: string;
  onChange: (value: string) => void;
}

function StateField({ name, state, states, problem, onChange }: StateFieldProps): ReactElement {
  const named = Object.entries(states);
  if (named.length > 0) {
    return (
      <Choice
        label={common.state}
        value={state}
        options={named.map(([number, word]) => ({ value: number, label: `${number} · ${word}` }))}
        onChange={(next) => onChange(line(name, next))}
      />
    );
  }
  return (
    <TextLine
      label={wording.stateNumber}
      value={state}
      problem={problem === '' ? undefined : problem}
      onChange={(text) => onChange(line(name, oneWord(text)))}
    />
  );
}

const WEIGHTS = [
  { value: 'time', label: wording.byTime },
  { value: 'samples', label: wording.bySamples },
];
const INTEGRAL_BASES = [
  { value: '', label: wording.theUnitsOwnTime },
  { value: 'second', label: common.seconds },
  { value: 'minute', label: common.minutes },
  { value: 'hour', label: common.hours },
];
const BASES = [
  { value: '', label: wording.second },
  { value: 'minute', label: wording.minute },
  { value: 'hour', label: wording.hour },
];

/** A figure with the options that are chosen at first. */
function usual(name: string, states: Readonly<Record<string, string>>): string {
  const options = optionsOf(name);
  if (options.includes('percent')) return line(name, '95');
  return options.includes('state') ? line(name, Object.keys(states)[0] ?? '1') : name;
}

function line(...words: readonly string[]): string {
  return words.filter((word) => word !== '').join(' ');
}

/** As typed, but for what would make two words of it; a comma is a point, as in every field of numbers. */
function oneWord(text: string): string {
  return text.replace(/\s/g, '').replace(',', '.');
}
