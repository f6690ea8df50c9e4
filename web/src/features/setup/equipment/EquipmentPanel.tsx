/** A piece of equipment: its name, its sources, its parameters; what is its own, setting by setting. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Choice, FormActions, Panel, Removal, Switched, TextLine, Told } from '../../../ui';
import { Elsewhere } from '../tags/Elsewhere';
import { ownWords, type EquipmentClass, type Equipment, type EquipmentIn } from './equipment';
import { OwnSetting } from './OwnSetting';
import { useDraft } from '../common/useDraft';
import { useSave } from '../common/useSave';
import { sourcesQuery } from '../../../entities/sources';
import { addEquipment, changeEquipment, removeEquipment } from '../../../entities/equipment';

interface EquipmentPanelProps {
  equipment: Equipment | null;
  equipmentClass: EquipmentClass;
  onClose: () => void;
}

export function EquipmentPanel({ equipment, equipmentClass, onClose }: EquipmentPanelProps): ReactElement {
  const draft = useDraft<Equipment, EquipmentIn>(equipment, first);
  const { form, set, base } = draft;
  const [each, setEach] = useState(equipment !== null && new Set(Object.values(equipment.sources)).size > 1);
  const { data: sources = [] } = useQuery(sourcesQuery);
  const slots = equipmentClass.slots.filter((one) => one.source == null);
  const saving = useSave(
    (body: EquipmentIn) =>
      base === null
        ? addEquipment(equipmentClass.uid, body)
        : changeEquipment(base.uid, { ...body, revision: base.revision }),
    ['name', 'sources', 'parameters'],
    () => equipment === null && onClose(),
    draft.saved,
  );
  const options = sources
    .filter((one) => !['calculated', 'internal', 'system'].includes(one.protocol))
    .map((one) => ({ value: one.uid, label: one.name }));
  const putAll = (source: string): void =>
    set({ sources: Object.fromEntries(slots.map((one) => [one.name, source])) });
  return (
    <Panel
      title={equipment?.name ?? `A new ${equipmentClass.name.toLowerCase()}`}
      onClose={onClose}
      onSubmit={() => saving.run(form)}
    >
      <TextLine
        label="Name"
        value={form.name}
        placeholder="Line 5"
        onChange={(name) => set({ name })}
        problem={saving.problem('name')}
      />
      {each ? (
        slots.map(({ name }) => (
          <Choice
            key={name}
            label={`Source of ${name}`}
            value={form.sources[name] ?? ''}
            options={options}
            onChange={(uid) => set({ sources: { ...form.sources, [name]: uid } })}
            problem={saving.problem('sources')}
          />
        ))
      ) : (
        <Choice
          label="Source"
          value={form.sources[slots[0]?.name ?? ''] ?? ''}
          options={options}
          onChange={putAll}
          problem={saving.problem('sources')}
        />
      )}
      {slots.length > 1 && (
        <Switched
          label={`Another source for ${slots.map((one) => one.name).join(', ')}`}
          value={each}
          onChange={setEach}
        />
      )}
      {Object.entries(equipmentClass.parameters).map(([name, usual]) => (
        <TextLine
          key={name}
          label={name}
          value={String(form.parameters[name] ?? '')}
          placeholder={String(usual)}
          onChange={(text) => set({ parameters: withParameter(form.parameters, name, text) })}
          problem={saving.problem('parameters')}
        />
      ))}
      {equipment !== null && <Own form={form} equipmentClass={equipmentClass} onChange={set} />}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && <Told kind="good">Saved. It is at work within 2 s.</Told>}
      <FormActions save={equipment === null ? 'Add' : 'Save'} busy={saving.busy} />
      {equipment !== null && <Leaving key={equipment.uid} equipment={equipment} onGone={onClose} />}
    </Panel>
  );
}

interface OwnProps {
  form: EquipmentIn;
  equipmentClass: EquipmentClass;
  onChange: (form: EquipmentIn) => void;
}

function Own({ form, equipmentClass, onChange }: OwnProps): ReactElement {
  const words = ownWords({ overrides: form.overrides, without: form.without });
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Typography sx={{ fontSize: 13, fontWeight: 700 }}>Otherwise than its class</Typography>
      {words.length === 0 && <Typography sx={{ fontSize: 12.5 }}>Nothing: it follows its class.</Typography>}
      {words.map((text) => (
        <Typography key={text} sx={{ fontSize: 12.5 }}>
          {text}
        </Typography>
      ))}
      {words.length > 0 && (
        <Button size="small" onClick={() => onChange({ ...form, overrides: {}, without: [] })}>
          Follow the class again
        </Button>
      )}
      <OwnSetting
        members={equipmentClass.members}
        onOwn={(key, change) => {
          const tags = form.overrides['tags'] ?? {};
          const own = { ...tags, [key]: { ...tags[key], ...change } };
          onChange({ ...form, overrides: { ...form.overrides, tags: own } });
        }}
      />
    </Box>
  );
}

function Leaving({ equipment, onGone }: { equipment: Equipment; onGone: () => void }): ReactElement {
  const removing = useSave((with_tags: boolean) => removeEquipment(equipment.uid, with_tags), [], onGone);
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Removal
        what={`${equipment.name} from the class`}
        word="Release"
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(false)}
      >
        {equipment.name} no longer follows its class. Its tags, loggers and history stay as they are.
      </Removal>
      <Removal
        what={`${equipment.name} with its tags`}
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(true)}
      >
        {equipment.name} goes with its tags, and they leave their loggers. What was recorded of them stays.
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

function first(equipment: Equipment | null): EquipmentIn {
  if (equipment === null) return { name: '', sources: {}, parameters: {}, overrides: {}, without: [] };
  const { name, sources, parameters, overrides, without } = equipment;
  return { name, sources, parameters, overrides, without };
}
