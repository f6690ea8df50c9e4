/** One more tag for all pieces of a class. */
import { useState, type ReactElement } from 'react';
import { Choice, FormActions, Panel, TextLine } from '../../../ui';
import { Addresses } from '../tags/Addresses';
import { withNewMember, type ClassIn, type Member } from './equipment';
import { VALUE_TYPES } from '../common/protocols';

interface NewMemberPanelProps {
  draft: ClassIn;
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
}

export function NewMemberPanel({ draft, onDraft, onClose }: NewMemberPanelProps): ReactElement {
  const slots = draft.slots;
  const [key, setKey] = useState('');
  const [slot, setSlot] = useState(slots[0]?.name ?? '');
  const [kind, setKind] = useState('float');
  const [logger, setLogger] = useState('');
  const like = draft.members.find((one) => one.slot === slot);
  const [own, setOwn] = useState<Member['addresses'] | null>(null);
  const addresses = own ?? like?.addresses ?? {};
  const taken = draft.members.some((one) => one.key.toLowerCase() === key.trim().toLowerCase());
  const add = (): void => {
    const settings = { name: `{name} ${key.trim()}`, value_type: kind, equipment: '{name}' };
    const member: Member = { key: key.trim(), slot, settings, addresses, limits: [null, null] };
    onDraft(withNewMember(draft, member, logger === '' ? [] : [logger]));
    onClose();
  };
  return (
    <Panel title="A tag for each" onClose={onClose} onSubmit={() => key.trim() !== '' && !taken && add()}>
      <TextLine
        label="What it is called behind the name of the piece"
        value={key}
        onChange={setKey}
        placeholder="Zone 1 filter pressure"
        problem={taken ? 'The class has such a tag.' : undefined}
      />
      <Choice label="Value" value={kind} options={VALUE_TYPES} onChange={setKind} />
      <Choice
        label="Read from"
        value={slot}
        options={slots.map((one) => ({ value: one.name, label: one.name }))}
        onChange={(next) => {
          setSlot(next);
          setOwn(null);
        }}
      />
      <Addresses key={slot} addresses={addresses} onChange={setOwn} />
      <Choice
        label="Recorded by"
        value={logger}
        options={[
          { value: '', label: 'none yet' },
          ...draft.loggers.map((one) => ({ value: one.key, label: one.key })),
        ]}
        onChange={setLogger}
      />
      <FormActions save="Add to the class" busy={false} disabled={key.trim() === '' || taken} />
    </Panel>
  );
}
