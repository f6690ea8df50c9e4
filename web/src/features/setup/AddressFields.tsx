/** The place of a tag in its source. */
import type { ReactElement } from 'react';
import { Choice, NumberLine, OptionalNumberLine, Pairs, Switched, TextLine } from '../../shared/ui';
import { CalculatedFields } from './CalculatedFields';
import { DATA_TYPES, numberOf, SHAPES, TABLES, text, type Address } from './protocols';
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
  const set = (name: string) => (value: unknown) => onChange({ ...address, [name]: value });
  const number = (name: string, label: string, none: number): ReactElement => (
    <NumberLine label={label} value={numberOf(address[name], none)} onChange={set(name)} />
  );
  if (protocol === 'generator') {
    return (
      <Pairs wide={wide}>
        <Choice
          label="Shape"
          value={text(address['shape'])}
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
          value={text(address['node'])}
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
    const initial = address['initial'];
    return (
      <Pairs>
        <OptionalNumberLine
          label="Initial value"
          value={typeof initial === 'number' ? initial : null}
          problem={problem}
          onChange={set('initial')}
        />
        <Switched
          label="Keeps its value over a restart"
          value={address['keep'] === true}
          onChange={set('keep')}
        />
      </Pairs>
    );
  }
  const bits = address['table'] === 'coil' || address['table'] === 'discrete_input';
  const table = (value: string): void => {
    const ofBits = value === 'coil' || value === 'discrete_input';
    const kind = ofBits ? 'bool' : bits ? 'float32' : address['data_type'];
    onChange({ ...address, table: value, data_type: kind });
  };
  return (
    <Pairs>
      <Choice label="Table" value={text(address['table'])} options={TABLES} onChange={table} />
      <NumberLine
        label="Address, counted from 0"
        value={numberOf(address['address'], 0)}
        onChange={set('address')}
        problem={problem}
      />
      {!bits && (
        <>
          <Choice
            label="Data type"
            value={text(address['data_type'])}
            options={DATA_TYPES.filter((one) => one.value !== 'bool')}
            onChange={set('data_type')}
          />
          {number('scale', 'Scale', 1)}
          {number('offset', 'Offset', 0)}
          <Switched
            label="Low word first"
            value={address['low_word_first'] === true}
            onChange={set('low_word_first')}
          />
        </>
      )}
    </Pairs>
  );
}
