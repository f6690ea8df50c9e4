/** The class itself: its name, a copy of it, and removing it. */
import { Button } from '@mui/material';
import type { ReactElement } from 'react';
import * as setup from 'texts/setup.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { Panel, Removal, TextLine, Told, Offered } from '../../../ui';
import { copied } from '../common/Duplicate';
import { useSave } from '../common/useSave';
import { asDraft, type ClassIn, type EquipmentClass } from './equipment';
import { removedOf, useRemoval } from '../common/useRemoval';
import { addClass, removeClass } from '../../../entities/equipment';

interface ClassPanelProps {
  draft: ClassIn;
  equipmentClass: EquipmentClass;
  onDraft: (draft: ClassIn) => void;
  onClose: () => void;
  onGone: () => void;
  /** A copy of the class is there. */
  onMade: (uid: string) => void;
}

export function ClassPanel({
  draft,
  equipmentClass,
  onDraft,
  onClose,
  onGone,
  onMade,
}: ClassPanelProps): ReactElement {
  const removing = useRemoval(removeClass, removedOf(equipmentClass), onGone);
  const copying = useSave(
    () => addClass(copied(asDraft(equipmentClass), true)),
    (made) => onMade(made.uid),
  );
  return (
    <Panel title={wording.theClass} onClose={onClose}>
      <TextLine
        label={wording.nameOfTheClass}
        value={draft.name}
        onChange={(name) => onDraft({ ...draft, name })}
      />
      {copying.general !== null && <Told kind="error">{copying.general}</Told>}
      <Offered>
        {' '}
        <Button
          size="small"
          sx={{ alignSelf: 'flex-start' }}
          disabled={copying.busy}
          onClick={() => copying.run(undefined)}
        >
          {setup.duplicate}
        </Button>
      </Offered>
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
