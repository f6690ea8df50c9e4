/** The class itself: its name, and removing it. */
import type { ReactElement } from 'react';
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
    <Panel title="The class" onClose={onClose}>
      <TextLine
        label="Name of the class"
        value={draft.name}
        onChange={(name) => onDraft({ ...draft, name })}
      />
      <Removal
        what={equipmentClass.name}
        busy={removing.busy}
        problem={removing.general}
        onRemove={() => removing.run(equipmentClass.uid)}
      >
        Without the class, the tags, loggers and history of its {equipmentClass.equipment} pieces stay as they
        are; each is then changed by itself.
      </Removal>
    </Panel>
  );
}
