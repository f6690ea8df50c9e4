/** The place of a tag in its source. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { Choice, NumberLine, OptionalNumberLine, Pairs, Switched, TextLine } from '../../../ui';
import { CalculatedFields } from './CalculatedFields';
import { DATA_TYPES, SHAPES, withField } from '../common/choices';
import { TABLES, text, typedOf, type Address, type Fields } from '../common/protocols';
import { SystemFields } from './SystemFields';

interface AddressFieldsProps {
  protocol: string;
  address: Address;
  onChange: (address: Address) => void;
  problem?: string | undefined;
  /** Three fields beside each other. */
  wide?: boolean;
}

export function AddressFields({
  protocol,
  address,
  onChange,
  problem,
  wide = false,
}: AddressFieldsProps): ReactElement {
  const fields: Fields = address;
  const set = (name: string) => (value: unknown) => onChange(withField(address, name, value));
  const number = (name: string, label: string, none: number): ReactElement => (
    <NumberLine
      label={label}
      value={typedOf(fields[name], none)}
      onChange={set(name)}
      onMistyped={set(name)}
    />
  );
  if (protocol === 'generator') {
    return (
      <Pairs wide={wide}>
        <Choice
          label={wording.shape}
          value={text(fields['shape'])}
          options={SHAPES}
          onChange={set('shape')}
          problem={problem}
        />
        {number('period_s', wording.periodS, 60)}
        {number('low', wording.lowEnd, 0)}
        {number('high', wording.highEnd, 100)}
        {number('noise', wording.noiseToEitherSide, 0)}
        {number('seed', wording.variant, 0)}
      </Pairs>
    );
  }
  if (protocol === 'opc_ua') {
    return (
      <>
        <TextLine
          label={wording.node}
          value={text(fields['node'])}
          onChange={set('node')}
          problem={problem}
          hint={wording.asTheServerNamesItNs}
        />
        <Pairs>
          {number('deadband', wording.deadbandAtTheServer, 0)}
          {number('scale', common.scale, 1)}
          {number('offset', wording.offset, 0)}
        </Pairs>
      </>
    );
  }
  if (protocol === 'calculated') {
    return <CalculatedFields address={address} onChange={onChange} problem={problem} />;
  }
  if (protocol === 'system') {
    return <SystemFields address={address} onChange={onChange} problem={problem} />;
  }
  if (protocol === 'internal') {
    const initial = fields['initial'];
    return (
      <Pairs>
        <OptionalNumberLine
          label={wording.initialValue}
          value={typedOf(initial, null)}
          problem={problem}
          onChange={set('initial')}
          onMistyped={set('initial')}
        />
        <Switched
          label={wording.retentiveKeepsItsValueOverA}
          value={fields['keep'] === true}
          onChange={set('keep')}
        />
      </Pairs>
    );
  }
  const bits = fields['table'] === 'coil' || fields['table'] === 'discrete_input';
  const table = (value: string): void => {
    const ofBits = value === 'coil' || value === 'discrete_input';
    const kind = ofBits ? 'bool' : bits ? 'float32' : fields['data_type'];
    onChange(withField(withField(address, 'table', value), 'data_type', kind));
  };
  return (
    <Pairs>
      <Choice label={common.table} value={text(fields['table'])} options={TABLES} onChange={table} />
      <NumberLine
        label={wording.addressCountedFrom0}
        value={typedOf(fields['address'], 0)}
        onChange={set('address')}
        onMistyped={set('address')}
        problem={problem}
      />
      {!bits && (
        <>
          <Choice
            label={wording.dataType}
            value={text(fields['data_type'])}
            options={DATA_TYPES.filter((one) => one.value !== 'bool')}
            onChange={set('data_type')}
          />
          {number('scale', common.scale, 1)}
          {number('offset', wording.offset, 0)}
          <Switched
            label={wording.lowWordFirst}
            value={fields['low_word_first'] === true}
            onChange={set('low_word_first')}
          />
        </>
      )}
    </Pairs>
  );
}
