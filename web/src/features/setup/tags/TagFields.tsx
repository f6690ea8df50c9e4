/** The form of one tag. */
import type { ReactElement } from 'react';
import { useFormContext, useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { Pairs } from '../../../ui';
import { fieldsOf, shapes } from '../../../ui/form';
import { ColourField } from '../../../ui/fields/ColourField';
import { AddressFields } from './AddressFields';
import { StatesField } from './StatesField';
import { ADDRESS_SHAPE } from './addressShape';
import { SYSTEM_STATES } from '../common/choices';
import { VALUE_TYPES, type Fields } from '../common/protocols';
import type { TagIn } from '../../../entities/tags';

const TagField = fieldsOf<TagIn>();

const { number } = shapes;
/** What of a tag can be mistyped. */
export const TAG_NUMBERS = {
  range_low: number,
  range_high: number,
  decimals: number,
  scan_us: shapes.duration,
  address: ADDRESS_SHAPE,
};
/** What the server finds wrong in an address is said there. */
export const TAG_PLACES = { formula: 'address', inputs: 'address' };

interface TagFieldsProps {
  protocol: string;
  nameHint?: string;
}

/** Of the form in which they stand. */
export function TagFields({ protocol, nameHint }: TagFieldsProps): ReactElement {
  const { control, getValues, setValue } = useFormContext<TagIn>();
  const kind = useWatch({ control, name: 'value_type' });
  const isNumber = kind === 'float' || kind === 'integer';
  const putAddress = (address: TagIn['address']): void => {
    const change = { ...suggested(address, getValues()), address };
    for (const [name, value] of Object.entries(change)) {
      setValue(name as keyof TagIn, value, { shouldDirty: true, shouldValidate: true });
    }
  };
  return (
    <>
      <TagField.Text
        name="name"
        label={common.name}
        {...(nameHint === undefined ? {} : { hint: nameHint })}
      />
      <TagField.Text name="description" label={common.description} />
      <TagField.Part<TagIn['address']> name="address">
        {({ value, problem }) => (
          <AddressFields protocol={protocol} address={value} onChange={putAddress} problem={problem} />
        )}
      </TagField.Part>
      <Pairs>
        <TagField.Choice name="value_type" label={common.value} options={VALUE_TYPES} />
        <TagField.Text name="unit" label={common.engineeringUnit} />
        {isNumber && (
          <>
            <TagField.Number name="range_low" label={common.rangeFrom} />
            <TagField.Number name="range_high" label={common.to} />
            <TagField.Number name="decimals" label={common.decimals} />
          </>
        )}
        <TagField.Duration name="scan_us" label={common.readEvery} />
        <TagField.Text name="equipment" label={common.equipment} placeholder={wording.line5Zone1} />
      </Pairs>
      <TagField.Part<string> name="colour">
        {(bound) => <ColourField label={wording.colourOfItsOwn} none={wording.byThePensNumber} {...bound} />}
      </TagField.Part>
      {kind === 'float' && <TagField.Switch name="stepped" label={wording.steppedHoldsItsValueUntilThe} />}
      {kind === 'state' && (
        <TagField.Part<string> name="states">{(bound) => <StatesField {...bound} />}</TagField.Part>
      )}
    </>
  );
}

/** What a place says of the tag by itself, where it was changed to another kind of value. */
function suggested(address: Fields, tag: TagIn): Partial<TagIn> {
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
