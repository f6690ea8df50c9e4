/** The class itself: its name, and removing it. */
import { Box, Button } from '@mui/material';
import type { ReactElement } from 'react';
import { client } from '../../api/client';
import { Panel, TextLine, Told } from '../../shared/ui';
import type { ClassIn, EquipmentClass } from './equipment';
import { useSave } from './useSave';

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
  const removing = useSave(
    async (uid: string) => client.DELETE('/api/setup/classes/{uid}', { params: { path: { uid } } }),
    [],
    onGone,
  );
  return (
    <Panel title="The class" onClose={onClose}>
      <TextLine
        label="Name of the class"
        value={draft.name}
        onChange={(name) => onDraft({ ...draft, name })}
      />
      <Told>
        Without the class, the tags, loggers and history of its {equipmentClass.pieces} pieces stay as they
        are; each is then changed by itself.
      </Told>
      <Box>
        <Button
          size="small"
          color="error"
          disabled={removing.busy}
          onClick={() => removing.run(equipmentClass.uid)}
        >
          Remove the class
        </Button>
      </Box>
      {removing.general !== null && <Told kind="error">{removing.general}</Told>}
    </Panel>
  );
}
