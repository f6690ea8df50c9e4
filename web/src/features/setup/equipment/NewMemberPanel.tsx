/** One more tag for all pieces of a class. */
import type { ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { Choice, FormActions, Panel } from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import { Addresses } from '../tags/Addresses';
import { withNewMember, type ClassIn, type Member } from './equipment';
import { VALUE_TYPES } from '../common/protocols';

interface NewMemberPanelProps {
  draft: ClassIn;
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
}

interface NewMember {
  key: string;
  slot: string;
  kind: string;
  logger: string;
  /** Null: those of another tag that is read from the same. */
  addresses: Member['addresses'] | null;
}

const Fields = fieldsOf<NewMember>();

export function NewMemberPanel({ draft, onDraft, onClose }: NewMemberPanelProps): ReactElement {
  const { slots, members, loggers } = draft;
  const added = useSentForm<NewMember, unknown>({
    values: { key: '', slot: slots[0]?.name ?? '', kind: 'float', logger: '', addresses: null },
    shape: shapes.shape({ key: shapes.text((key) => problemOf(key, members)) }),
    send: (values) => {
      onDraft(withNewMember(draft, memberOf(values, members), values.logger === '' ? [] : [values.logger]));
      onClose();
    },
  });
  const slot = useWatch({ control: added.form.control, name: 'slot' });
  return (
    <FormFields of={added}>
      <Panel title={wording.newTagForEach} onClose={onClose} onSubmit={added.onSubmit}>
        <Fields.Text
          name="key"
          label={wording.nameAfterTheNameOfThe}
          placeholder={wording.zone1FilterPressure}
        />
        <Fields.Choice name="kind" label={common.value} options={VALUE_TYPES} />
        <Fields.Part<string> name="slot">
          {({ value, onChange }) => (
            <Choice
              label={wording.readFrom}
              value={value}
              options={slots.map((one) => ({ value: one.name, label: one.name }))}
              onChange={(next) => {
                onChange(next);
                added.form.setValue('addresses', null);
              }}
            />
          )}
        </Fields.Part>
        <Fields.Part<NewMember['addresses']> name="addresses">
          {({ value, onChange }) => (
            <Addresses key={slot} addresses={value ?? addressesLike(slot, members)} onChange={onChange} />
          )}
        </Fields.Part>
        <Fields.Choice
          name="logger"
          label={common.recordedBy}
          options={[
            { value: '', label: wording.noneYet },
            ...loggers.map((one) => ({ value: one.key, label: one.key })),
          ]}
        />
        <FormActions save={wording.addToTheClass} busy={added.busy} />
      </Panel>
    </FormFields>
  );
}

function problemOf(key: string, members: readonly Member[]): string | null {
  const plain = key.trim().toLowerCase();
  if (plain === '') return wording.giveItAName;
  return members.some((one) => one.key.toLowerCase() === plain) ? wording.theClassHasSuchATag : null;
}

function addressesLike(slot: string, members: readonly Member[]): Member['addresses'] {
  return members.find((one) => one.slot === slot)?.addresses ?? {};
}

function memberOf({ key, slot, kind, addresses }: NewMember, members: readonly Member[]): Member {
  const name = key.trim();
  return {
    key: name,
    slot,
    settings: { name: `{name} ${name}`, value_type: kind, equipment: '{name}' },
    addresses: addresses ?? addressesLike(slot, members),
    limits: [null, null],
  };
}
