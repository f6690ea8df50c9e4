/** The class itself: its name, and removing it. */
import type { ReactElement } from 'react';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { Panel, Removal, TextLine } from '../../../ui';
import type { ClassIn, EquipmentClass } from './equipment';
import { removedOf, useRemoval } from '../common/useRemoval';
import { removeClass } from '../../../entities/equipment';

interface ClassPanelProps {
  draft: ClassIn;
  equipmentClass: EquipmentClass;
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
  onGone: () => void;
}

export function ClassPanel({
  draft,
  equipmentClass,
  onDraft,
  onClose,
  onGone,
}: ClassPanelProps): ReactElement {
  const removing = useRemoval(removeClass, removedOf(equipmentClass), onGone);
  return (
    <Panel title={wording.theClass} onClose={onClose}>
      <TextLine
        label={wording.nameOfTheClass}
        value={draft.name}
        onChange={(name) => onDraft({ ...draft, name })}
      />
      <Removal
        what={equipmentClass.name}
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(equipmentClass.uid)}
      >
        {fill(wording.withoutTheClassTheTagsLoggers, { equipment: equipmentClass.equipment })}
      </Removal>
    </Panel>
  );
}
