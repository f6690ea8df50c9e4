/** How a value is calculated: a formula with the tags of its inputs, a counter, a meter. */
import { Box, Link, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../api/errors';
import { Choice, Pairs, TagChoice, TextLine, Told } from '../../shared/ui';
import { CALCULATIONS, text, type Address } from './protocols';
import { formulaQuery, functionsQuery } from './queries';

interface CalculatedFieldsProps {
  address: Address;
  onChange: (address: Address) => void;
  problem?: string | undefined;
}

const EDGES = [
  { value: 'rising', label: 'when it becomes on' },
  { value: 'falling', label: 'when it becomes off' },
  { value: 'either', label: 'when it becomes on or off' },
];

const PER = [
  { value: 'h', label: 'hours' },
  { value: 'min', label: 'minutes' },
  { value: 's', label: 'seconds' },
];

/** What each kind begins with, and the tags it needs: name, label, whether it can do without. */
const KINDS: Record<string, { first: Address; tags: readonly (readonly [string, string, boolean])[] }> = {
  formula: { first: { formula: '' }, tags: [] },
  counter: {
    first: { edge: 'rising', preset: null },
    tags: [
      ['input', 'Counts', false],
      ['reset', 'Set to 0 when this becomes on', true],
      ['preset', 'Preset from a tag', true],
    ],
  },
  reached: { first: {}, tags: [['counter', 'Counter', false]] },
  hours: {
    first: { per: 'h' },
    tags: [
      ['input', 'Runs while this is on', false],
      ['reset', 'Set to 0 when this becomes on', true],
    ],
  },
  total: {
    first: { per: 'h' },
    tags: [
      ['input', 'Sums up', false],
      ['reset', 'Set to 0 when this becomes on', true],
    ],
  },
};

export function CalculatedFields({ address, onChange, problem }: CalculatedFieldsProps): ReactElement {
  const kind = text(address['kind']) || 'formula';
  const facts = KINDS[kind];
  const inputs = inputsOf(address);
  const setInput = (name: string, uid: string | null): void => {
    const others = Object.fromEntries(Object.entries(inputs).filter(([key]) => key !== name));
    onChange({ ...address, inputs: uid === null ? others : { ...others, [name]: uid } });
  };
  return (
    <>
      <Choice
        label="Calculated as"
        value={kind}
        options={CALCULATIONS}
        onChange={(next) => onChange({ kind: next, inputs: {}, ...KINDS[next]?.first })}
      />
      {kind === 'formula' ? (
        <FormulaFields address={address} inputs={inputs} onChange={onChange} setInput={setInput} />
      ) : (
        facts?.tags.map(([name, label, optional]) => (
          <TagChoice
            key={name}
            label={label}
            value={inputs[name] ?? null}
            none={optional ? 'no tag' : 'choose a tag'}
            onChange={(uid) => setInput(name, uid)}
          />
        ))
      )}
      <MeterFields kind={kind} address={address} onChange={onChange} />
      {problem !== undefined && <Told kind="error">{problem}</Told>}
    </>
  );
}

interface MeterFieldsProps {
  kind: string;
  address: Address;
  onChange: (address: Address) => void;
}

function MeterFields({ kind, address, onChange }: MeterFieldsProps): ReactElement | null {
  if (kind === 'counter') {
    const preset = address['preset'];
    return (
      <Pairs>
        <Choice
          label="One more"
          value={text(address['edge'])}
          options={EDGES}
          onChange={(edge) => onChange({ ...address, edge })}
        />
        <TextLine
          label="Preset"
          value={typeof preset === 'number' ? String(preset) : text(preset)}
          placeholder="none"
          onChange={(value) => {
            const number = Number(value.replace(',', '.'));
            onChange({
              ...address,
              preset: value.trim() === '' ? null : Number.isNaN(number) ? value : number,
            });
          }}
        />
      </Pairs>
    );
  }
  if (kind !== 'hours' && kind !== 'total') return null;
  return (
    <Choice
      label={kind === 'hours' ? 'Counted in' : 'The rate is per'}
      value={text(address['per'])}
      options={kind === 'hours' ? PER : PER.map((one) => ({ ...one, label: one.label.replace(/s$/, '') }))}
      onChange={(per) => onChange({ ...address, per })}
    />
  );
}

interface FormulaFieldsProps {
  address: Address;
  inputs: Readonly<Record<string, string>>;
  onChange: (address: Address) => void;
  setInput: (name: string, uid: string | null) => void;
}

function FormulaFields({ address, inputs, onChange, setInput }: FormulaFieldsProps): ReactElement {
  const formula = text(address['formula']);
  const { data: found, error } = useQuery(formulaQuery(formula, inputs));
  const [listed, setListed] = useState(false);
  // While one types, the names that were there stay: their tags are not lost over a slip.
  const names = error === null && found !== undefined ? found.inputs : Object.keys(inputs);
  return (
    <>
      <TextLine
        label="Formula"
        value={formula}
        placeholder="dew_point(t, rh)"
        onChange={(next) => onChange({ ...address, formula: next })}
      />
      {error !== null && formula.trim() !== '' && <Told kind="error">{errorText(error)}</Told>}
      {names.map((name) => (
        <TagChoice
          key={name}
          label={`${name} is`}
          value={inputs[name] ?? null}
          none="choose a tag"
          onChange={(uid) => setInput(name, uid)}
        />
      ))}
      {error === null && found !== undefined && names.length > 0 && found.missing.length === 0 && (
        <Told kind="good">
          {found.value === null
            ? `No value by the present values: ${found.quality}`
            : `Now: ${shown(found.value)}`}
        </Told>
      )}
      <Box>
        <Link component="button" type="button" sx={{ fontSize: 12 }} onClick={() => setListed(!listed)}>
          {listed ? 'Hide what formulas may use' : 'What formulas may use'}
        </Link>
      </Box>
      {listed && <Functions />}
    </>
  );
}

function Functions(): ReactElement {
  const { data: functions = [] } = useQuery(functionsQuery);
  return (
    <Box sx={{ fontSize: 12, color: 'text.secondary' }}>
      <Typography sx={{ fontSize: 12 }}>
        + - * / % (rest) ^ (power), = != &lt; &lt;= &gt; &gt;=, and, or, not, brackets; lengths of time as 500
        ms, 10 s, 5 min, 2 h, 1 d. Each name in it is a tag that you choose above.
      </Typography>
      <Box component="dl" sx={{ m: 0, mt: 0.5, maxHeight: 220, overflowY: 'auto' }} tabIndex={0}>
        {functions.map((one) => (
          <Box key={one.signature} sx={{ mb: 0.5 }}>
            <Box component="dt" sx={{ fontFamily: 'B612 Mono', color: 'text.primary' }}>
              {one.signature}
            </Box>
            <Box component="dd" sx={{ m: 0, ml: 1 }}>
              {one.text}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function inputsOf(address: Address): Record<string, string> {
  const inputs = address['inputs'];
  if (typeof inputs !== 'object' || inputs === null) return {};
  return Object.fromEntries(Object.entries(inputs).filter((one) => typeof one[1] === 'string'));
}

function shown(value: number): string {
  return String(Number(value.toPrecision(5)));
}
