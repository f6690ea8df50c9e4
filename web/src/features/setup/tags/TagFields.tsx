/** The form of one tag. */
import type { ReactElement } from 'react';
import { Choice, DurationLine, NumberLine, Pairs, Switched, TextLine } from '../../../ui';
import { AddressFields } from './AddressFields';
import { SYSTEM_STATES, VALUE_TYPES, type Fields } from '../common/protocols';
import type { TagIn } from '../../../entities/tags';

export const TAG_FIELDS = [
  'name',
  'description',
  'value_type',
  'unit',
  'range_low',
  'range_high',
  'decimals',
  'equipment',
  'scan_us',
  'colour',
  'states',
  'address',
  'formula',
  'inputs',
];

interface TagFieldsProps {
  tag: TagIn;
  protocol: string;
  onChange: (tag: TagIn) => void;
  problem: (field: string) => string | undefined;
  nameHint?: string;
}

export function TagFields({ tag, protocol, onChange, problem, nameHint }: TagFieldsProps): ReactElement {
  const set = (name: keyof TagIn) => (value: unknown) => onChange({ ...tag, [name]: value });
  const numbers = tag.value_type === 'float' || tag.value_type === 'integer';
  return (
    <>
      <TextLine
        label="Name"
        value={tag.name}
        onChange={set('name')}
        problem={problem('name')}
        {...(nameHint === undefined ? {} : { hint: nameHint })}
      />
      <TextLine
        label="Description"
        value={tag.description}
        onChange={set('description')}
        problem={problem('description')}
      />
      <AddressFields
        protocol={protocol}
        address={tag.address}
        onChange={(address) => {
          onChange({ ...tag, address, ...formOf(address, tag) });
        }}
        problem={problem('address') ?? problem('formula') ?? problem('inputs')}
      />
      <Pairs>
        <Choice
          label="Value"
          value={tag.value_type}
          options={VALUE_TYPES}
          onChange={set('value_type')}
          problem={problem('value_type')}
        />
        <TextLine
          label="Engineering unit"
          value={tag.unit}
          onChange={set('unit')}
          problem={problem('unit')}
        />
        {numbers && (
          <>
            <NumberLine
              label="Range from"
              value={tag.range_low}
              onChange={set('range_low')}
              problem={problem('range_low')}
            />
            <NumberLine
              label="to"
              value={tag.range_high}
              onChange={set('range_high')}
              problem={problem('range_high')}
            />
            <NumberLine
              label="Decimals"
              value={tag.decimals}
              onChange={set('decimals')}
              problem={problem('decimals')}
            />
          </>
        )}
        <DurationLine
          label="Read every"
          value={tag.scan_us}
          onChange={set('scan_us')}
          problem={problem('scan_us')}
        />
        <TextLine
          label="Equipment"
          value={tag.equipment}
          placeholder="Line 5/Zone 1"
          onChange={set('equipment')}
          problem={problem('equipment')}
        />
        <TextLine
          label="Colour of its own"
          value={tag.colour}
          placeholder="#RRGGBB"
          onChange={set('colour')}
          problem={problem('colour')}
        />
      </Pairs>
      {tag.value_type === 'float' && (
        <Switched
          label="Stepped: holds its value until the next"
          value={tag.stepped}
          onChange={set('stepped')}
        />
      )}
      {tag.value_type === 'state' && (
        <TextLine
          label="Names of its values"
          value={tag.states}
          placeholder='{"0": "Idle", "1": "Runs"}'
          onChange={set('states')}
          problem={problem('states')}
        />
      )}
    </>
  );
}

/** What a place says of the tag by itself, where it was changed to another kind of value. */
function formOf(address: Fields, tag: TagIn): Partial<TagIn> {
  const before: Fields = tag.address;
  if (address['data_type'] === 'bool' && before['data_type'] !== 'bool') {
    return { value_type: 'boolean', unit: '' };
  }
  const item = address['item'];
  if (typeof item === 'string' && item !== before['item']) {
    const states = SYSTEM_STATES[item];
    if (states !== undefined) return { value_type: 'state', unit: '', states: JSON.stringify(states) };
    return { value_type: 'float', states: '' };
  }
  const kind = address['kind'];
  if (typeof kind === 'string' && kind !== before['kind']) {
    if (kind === 'reached') return { value_type: 'boolean', unit: '' };
    return kind === 'counter' ? { value_type: 'integer', decimals: 0 } : { value_type: 'float' };
  }
  return {};
}
