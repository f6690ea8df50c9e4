/** A piece of equipment: its name, its sources, its parameters; what is its own, setting by setting. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useWatch, type UseFormReturn } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as setup from 'texts/setup.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { Choice, Removal, Switched, TextLine, Offered } from '../../../ui';
import { fieldsOf, shapes, type Bound } from '../../../ui/form';
import { ownWords, type EquipmentClass, type Equipment, type EquipmentIn } from './equipment';
import { OwnSetting } from './OwnSetting';
import { copied } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { removedOf, useRemoval } from '../common/useRemoval';
import { useStoredForm } from '../common/useStoredForm';
import { sourcesQuery } from '../../../entities/sources';
import { addEquipment, changeEquipment, removeEquipment } from '../../../entities/equipment';

interface EquipmentPanelProps {
  equipment: Equipment | null;
  /** New equipment begins as a copy of this one. */
  like: Equipment | null;
  equipmentClass: EquipmentClass;
  onCopy: (uid: string) => void;
  onClose: () => void;
}

const Fields = fieldsOf<EquipmentIn>();
const SHAPE = shapes.shape({});

export function EquipmentPanel(props: EquipmentPanelProps): ReactElement {
  const { equipment, like, equipmentClass, onCopy, onClose } = props;
  const stored = useStoredForm({
    stored: equipment,
    valuesOf: (version) => copied(valuesOf(version ?? like), version === null && like !== null),
    shape: SHAPE,
    save: (values: EquipmentIn, base: Equipment | null) =>
      base === null
        ? addEquipment(equipmentClass.uid, values)
        : changeEquipment(base.uid, { ...values, revision: base.revision }),
    versionOf: (made) => made,
    onDone: () => equipment === null && onClose(),
  });
  return (
    <StoredPanel
      title={equipment?.name ?? fill(wording.aNewName, { name: equipmentClass.name.toLowerCase() })}
      onClose={onClose}
      stored={stored}
      save={equipment === null ? common.add : common.save}
      said={equipment === null ? null : common.savedItTakesEffectWithin2}
      actions={
        equipment !== null && (
          <Offered>
            <Button size="small" onClick={() => onCopy(equipment.uid)}>
              {setup.duplicate}
            </Button>
          </Offered>
        )
      }
      below={equipment !== null && <Leaving key={equipment.uid} equipment={equipment} onGone={onClose} />}
    >
      <Fields.Text name="name" label={common.name} placeholder={wording.line5} />
      <Fields.Part<EquipmentIn['sources']> name="sources">
        {(bound) => <Sources {...bound} equipment={equipment ?? like} equipmentClass={equipmentClass} />}
      </Fields.Part>
      <Fields.Part<EquipmentIn['parameters']> name="parameters">
        {({ value, onChange, problem }) => (
          <>
            {Object.entries(equipmentClass.parameters).map(([name, usual]) => (
              <TextLine
                key={name}
                label={name}
                value={String(value[name] ?? '')}
                placeholder={String(usual)}
                onChange={(text) => onChange(withParameter(value, name, text))}
                problem={problem}
              />
            ))}
          </>
        )}
      </Fields.Part>
      {(equipment !== null || like !== null) && <Own form={stored.form} equipmentClass={equipmentClass} />}
    </StoredPanel>
  );
}

interface SourcesProps extends Bound<EquipmentIn['sources']> {
  equipment: Equipment | null;
  equipmentClass: EquipmentClass;
}

/** Where it is read from: one source for all, or another one for each of what the class reads from. */
function Sources({ value, onChange, problem, equipment, equipmentClass }: SourcesProps): ReactElement {
  const { data: sources = [] } = useQuery(sourcesQuery);
  const [each, setEach] = useState(equipment !== null && new Set(Object.values(equipment.sources)).size > 1);
  const slots = equipmentClass.slots.filter((one) => one.source == null);
  const options = sources
    .filter((one) => !['calculated', 'internal', 'system'].includes(one.protocol))
    .map((one) => ({ value: one.uid, label: one.name }));
  return (
    <>
      {each ? (
        slots.map(({ name }) => (
          <Choice
            key={name}
            label={fill(wording.sourceOfName, { name })}
            value={value[name] ?? ''}
            options={options}
            onChange={(uid) => onChange({ ...value, [name]: uid })}
            problem={problem}
          />
        ))
      ) : (
        <Choice
          label={common.source}
          value={value[slots[0]?.name ?? ''] ?? ''}
          options={options}
          onChange={(uid) => onChange(Object.fromEntries(slots.map((one) => [one.name, uid])))}
          problem={problem}
        />
      )}
      {slots.length > 1 && (
        <Switched
          label={fill(wording.anotherSourceForSlots, { slots: slots.map((one) => one.name).join(', ') })}
          value={each}
          onChange={setEach}
        />
      )}
    </>
  );
}

interface OwnProps {
  form: UseFormReturn<EquipmentIn>;
  equipmentClass: EquipmentClass;
}

function Own({ form, equipmentClass }: OwnProps): ReactElement {
  const [overrides, without] = useWatch({ control: form.control, name: ['overrides', 'without'] });
  const put = (name: 'overrides' | 'without', value: EquipmentIn[typeof name]): void =>
    form.setValue(name, value, { shouldDirty: true });
  const words = ownWords({ overrides, without });
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Typography variant="subtitle2">{wording.overrides}</Typography>
      {words.length === 0 && <Typography variant="caption">{wording.noneAllSettingsAreThoseOf}</Typography>}
      {words.map((text) => (
        <Typography key={text} variant="caption">
          {text}
        </Typography>
      ))}
      {words.length > 0 && (
        <Offered>
          {' '}
          <Button
            size="small"
            onClick={() => {
              put('overrides', {});
              put('without', []);
            }}
          >
            {wording.removeOverrides}
          </Button>
        </Offered>
      )}
      <OwnSetting
        members={equipmentClass.members}
        onOwn={(key, change) => {
          const tags = overrides['tags'] ?? {};
          put('overrides', { ...overrides, tags: { ...tags, [key]: { ...tags[key], ...change } } });
        }}
      />
    </Box>
  );
}

function Leaving({ equipment, onGone }: { equipment: Equipment; onGone: () => void }): ReactElement {
  const removing = useRemoval(
    (with_tags: boolean) => removeEquipment(equipment.uid, with_tags),
    removedOf(equipment),
    onGone,
  );
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Removal
        what={fill(wording.nameFromTheClass, { name: equipment.name })}
        word={wording.release}
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(false)}
      >
        {fill(wording.nameNoLongerFollowsItsClass, { name: equipment.name })}
      </Removal>
      <Removal
        what={fill(wording.nameWithItsTags, { name: equipment.name })}
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(true)}
      >
        {fill(wording.nameGoesWithItsTagsAnd, { name: equipment.name })}
      </Removal>
    </Box>
  );
}

function withParameter(
  all: EquipmentIn['parameters'],
  name: string,
  text: string,
): EquipmentIn['parameters'] {
  const others = Object.fromEntries(Object.entries(all).filter(([other]) => other !== name));
  if (text.trim() === '') return others;
  return { ...others, [name]: /^-?\d+$/.test(text.trim()) ? Number(text) : text };
}

function valuesOf(equipment: Equipment | null): EquipmentIn {
  if (equipment === null) return { name: '', sources: {}, parameters: {}, overrides: {}, without: [] };
  const { name, sources, parameters, overrides, without } = equipment;
  return { name, sources, parameters, overrides, without };
}
