/** A new class: of equipment that is there and is alike. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { Choice, FormActions, Panel, Told } from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import { useAskAnew } from '../common/useSave';
import { alikeQuery, gatherClass, type Alike } from '../../../entities/equipment';

interface GatherPanelProps {
  onClose: () => void;
  onMade: (uid: string) => void;
}

interface Gathered {
  kind: string;
  name: string;
}

const Fields = fieldsOf<Gathered>();
const SHAPE = shapes.shape({ name: shapes.filled(wording.giveTheClassAName) });

export function GatherPanel({ onClose, onMade }: GatherPanelProps): ReactElement {
  const { data: kinds = [], isSuccess } = useQuery(alikeQuery);
  const [first] = kinds;
  if (first !== undefined) return <Gather {...{ kinds, first, onClose, onMade }} />;
  return (
    <Panel title={wording.newClass} onClose={onClose}>
      {isSuccess && <Told>{wording.thereIsNoEquipmentThatIs}</Told>}
    </Panel>
  );
}

interface GatherProps extends GatherPanelProps {
  kinds: readonly Alike[];
  first: Alike;
}

function Gather({ kinds, first, onClose, onMade }: GatherProps): ReactElement {
  const askAnew = useAskAnew();
  const gathering = useSentForm({
    values: { kind: first.name, name: first.name },
    shape: SHAPE,
    send: gatherClass,
    onDone: async (made) => {
      await askAnew();
      onMade(made.uid);
    },
    stays: true,
  });
  const { control, setValue, getFieldState } = gathering.form;
  const chosen = useWatch({ control, name: 'kind' });
  const kind = kinds.find((one) => one.name === chosen);
  return (
    <FormFields of={gathering}>
      <Panel title={wording.newClass} onClose={onClose} onSubmit={gathering.onSubmit}>
        <Fields.Part<string> name="kind">
          {({ value, onChange, problem }) => (
            <Choice
              label={wording.ofEquipmentThatIsAlike}
              value={value}
              options={kinds.map((one) => ({
                value: one.name,
                label: fill(wording.nameEquipmentWithMembersTagsEach, {
                  name: one.name,
                  equipment: one.equipment.length,
                  members: one.members.length,
                }),
              }))}
              onChange={(next) => {
                onChange(next);
                // A name that was typed stays.
                if (!getFieldState('name').isDirty) setValue('name', next);
              }}
              problem={problem}
            />
          )}
        </Fields.Part>
        {kind !== undefined && (
          <Told>
            {fill(wording.equipmentTheirTagsLoggersAndHistory, { equipment: kind.equipment.join(', ') })}
          </Told>
        )}
        <Fields.Text name="name" label={wording.nameOfTheClass} />
        {gathering.general !== null && <Told kind="error">{gathering.general}</Told>}
        <FormActions save={wording.createClass} busy={gathering.busy} />
      </Panel>
    </FormFields>
  );
}
