/** How a value is calculated: a formula with the tags of its inputs, a counter, a meter. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { Choice, OptionalNumberLine, Pairs, Told, type Typed } from '../../../ui';
import { withField } from '../common/choices';
import { CALCULATIONS, text, typedOf, type Address, type Fields } from '../common/protocols';
import { StatisticFields } from './StatisticFields';
import { FormulaFields } from '../../../entities/FormulaFields';
import { TagChoice } from '../../../entities/TagChoice';

interface CalculatedFieldsProps {
  address: Address;
  onChange: (address: Address) => void;
  problem?: string | undefined;
}

const EDGES = [
  { value: 'rising', label: wording.whenItBecomesOn },
  { value: 'falling', label: wording.whenItBecomesOff },
  { value: 'either', label: wording.whenItBecomesOnOrOff },
];

const PER = [
  { value: 'h', label: common.hours },
  { value: 'min', label: common.minutes },
  { value: 's', label: common.seconds },
];

/** What each kind begins with, and the tags it needs: name, label, whether it can do without. */
const KINDS: Record<string, { first: Fields; tags: readonly (readonly [string, string, boolean])[] }> = {
  formula: { first: { formula: '' }, tags: [] },
  counter: {
    first: { edge: 'rising', preset: null },
    tags: [
      ['input', wording.counts, false],
      ['reset', wording.setTo0WhenThisBecomes, true],
      ['preset', wording.presetFromATag, true],
    ],
  },
  reached: { first: {}, tags: [['counter', wording.counter, false]] },
  hours: {
    first: { per: 'h' },
    tags: [
      ['input', wording.runsWhileThisIsOn, false],
      ['reset', wording.setTo0WhenThisBecomes, true],
    ],
  },
  total: {
    first: { per: 'h' },
    tags: [
      ['input', wording.sumsUp, false],
      ['reset', wording.setTo0WhenThisBecomes, true],
    ],
  },
  figure: { first: { figure: 'TimeAverage2', window: 1800 }, tags: [['input', wording.statisticOf, false]] },
};

export function CalculatedFields({ address, onChange, problem }: CalculatedFieldsProps): ReactElement {
  const fields: Fields = address;
  const kind = text(fields['kind']) || 'formula';
  const form = KINDS[kind];
  const inputs = inputsOf(address);
  const setInput = (name: string, uid: string | null): void => {
    const others = Object.fromEntries(Object.entries(inputs).filter(([key]) => key !== name));
    onChange(withField(address, 'inputs', uid === null ? others : { ...others, [name]: uid }));
  };
  return (
    <>
      <Choice
        label={wording.calculatedAs}
        value={kind}
        options={CALCULATIONS}
        onChange={(next) => onChange({ kind: next, inputs: {}, ...KINDS[next]?.first } as Address)}
      />
      {kind === 'formula' ? (
        <FormulaFields
          formula={text(fields['formula'])}
          inputs={inputs}
          onFormula={(formula) => onChange(withField(address, 'formula', formula))}
          onInput={setInput}
        />
      ) : (
        form?.tags.map(([name, label, optional]) => (
          <TagChoice
            key={name}
            label={label}
            value={inputs[name] ?? null}
            none={optional ? common.noTag : common.chooseATag}
            onChange={(uid) => setInput(name, uid)}
          />
        ))
      )}
      {kind === 'figure' ? (
        <StatisticFields address={address} onChange={onChange} />
      ) : (
        <MeterFields kind={kind} address={address} onChange={onChange} />
      )}
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
  const fields: Fields = address;
  if (kind === 'counter') {
    const preset = fields['preset'];
    const putPreset = (value: Typed | null): void => onChange(withField(address, 'preset', value));
    return (
      <Pairs>
        <Choice
          label={wording.oneMore}
          value={text(fields['edge'])}
          options={EDGES}
          onChange={(edge) => onChange(withField(address, 'edge', edge))}
        />
        <OptionalNumberLine
          label={wording.preset}
          value={typedOf(preset, null)}
          onChange={putPreset}
          onMistyped={putPreset}
        />
      </Pairs>
    );
  }
  if (kind !== 'hours' && kind !== 'total') return null;
  return (
    <Choice
      label={kind === 'hours' ? wording.countedIn : wording.theRateIsPer}
      value={text(fields['per'])}
      options={kind === 'hours' ? PER : PER.map((one) => ({ ...one, label: one.label.replace(/s$/, '') }))}
      onChange={(per) => onChange(withField(address, 'per', per))}
    />
  );
}

function inputsOf(address: Fields): Record<string, string> {
  const inputs = address['inputs'];
  if (typeof inputs !== 'object' || inputs === null) return {};
  return Object.fromEntries(Object.entries(inputs).filter((one) => typeof one[1] === 'string'));
}
