/** A new class: of equipment that is there and is alike. */
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Choice, FormActions, Panel, TextLine, Told } from '../../../ui';
import { useSave } from '../common/useSave';
import { alikeQuery, gatherClass } from '../../../entities/equipment';

interface GatherPanelProps {
  onClose: () => void;
  onMade: (uid: string) => void;
}

export function GatherPanel({ onClose, onMade }: GatherPanelProps): ReactElement {
  const { data: kinds = [], isSuccess } = useQuery(alikeQuery);
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName] = useState<string | null>(null);
  const kind = kinds.find((one) => one.name === chosen) ?? kinds[0];
  const saving = useSave(gatherClass, ['name', 'kind'], (made) => onMade(made.uid));
  const named = name ?? kind?.name ?? '';
  return (
    <Panel
      title="A new class"
      onClose={onClose}
      onSubmit={() => kind !== undefined && saving.run({ kind: kind.name, name: named })}
    >
      {isSuccess && kinds.length === 0 && (
        <Told>
          There is no equipment that is alike and of no class yet: at least two whose tags are called the same
          behind their names.
        </Told>
      )}
      {kind !== undefined && (
        <>
          <Choice
            label="Of equipment that is alike"
            value={kind.name}
            options={kinds.map((one) => ({
              value: one.name,
              label: `${one.name}: ${one.equipment.length} with ${one.members.length} tags each`,
            }))}
            onChange={setChosen}
            problem={saving.problem('kind')}
          />
          <Told>{kind.equipment.join(', ')}. Their tags, loggers and history stay as they are.</Told>
          <TextLine
            label="Name of the class"
            value={named}
            onChange={setName}
            problem={saving.problem('name')}
          />
          <FormActions save="Make the class" busy={saving.busy} />
        </>
      )}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
    </Panel>
  );
}
