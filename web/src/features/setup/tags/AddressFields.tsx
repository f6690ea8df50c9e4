/** The place of a tag in its source. */
import type { ReactElement } from 'react';
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
          label="Shape"
          value={text(fields['shape'])}
          options={SHAPES}
          onChange={set('shape')}
          problem={problem}
        />
        {number('period_s', 'Period, s', 60)}
        {number('low', 'Low end', 0)}
        {number('high', 'High end', 100)}
        {number('noise', 'Noise, to either side', 0)}
        {number('seed', 'Variant', 0)}
      </Pairs>
    );
  }
  if (protocol === 'opc_ua') {
    return (
      <>
        <TextLine
          label="Node"
          value={text(fields['node'])}
          onChange={set('node')}
          problem={problem}
          hint="As the server names it: ns=2;s=Line 2.Temperature"
        />
        <Pairs>
          {number('deadband', 'Deadband at the server', 0)}
          {number('scale', 'Scale', 1)}
          {number('offset', 'Offset', 0)}
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
          label="Initial value"
          value={typedOf(initial, null)}
          problem={problem}
          onChange={set('initial')}
          onMistyped={set('initial')}
        />
        <Switched
          label="Retentive: keeps its value over a restart"
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
      <Choice label="Table" value={text(fields['table'])} options={TABLES} onChange={table} />
      <NumberLine
        label="Address, counted from 0"
        value={typedOf(fields['address'], 0)}
        onChange={set('address')}
        onMistyped={set('address')}
        problem={problem}
      />
      {!bits && (
        <>
          <Choice
            label="Data type"
            value={text(fields['data_type'])}
            options={DATA_TYPES.filter((one) => one.value !== 'bool')}
            onChange={set('data_type')}
          />
          {number('scale', 'Scale', 1)}
          {number('offset', 'Offset', 0)}
          <Switched
            label="Low word first"
            value={fields['low_word_first'] === true}
            onChange={set('low_word_first')}
          />
        </>
      )}
    </Pairs>
  );
}
