/** What opens beside a class: a member, a logger, a piece of equipment, what a change does, the class itself. */
import type { ReactElement } from 'react';
import { ClassPanel } from './ClassPanel';
import { asDraft, type ClassIn, type EquipmentClass } from './equipment';
import type { EquipmentList } from './EquipmentList';
import { EquipmentPanel } from './EquipmentPanel';
import { LoggerPatternPanel } from './LoggerPatternPanel';
import { MemberPanel } from './MemberPanel';
import { NewMemberPanel } from './NewMemberPanel';
import { PlanPanel } from './PlanPanel';

export type Opened =
  | { kind: 'member'; key: string }
  | { kind: 'logger'; key: string }
  | { kind: 'new member' }
  | { kind: 'equipment'; uid: string | null; like?: string }
  | { kind: 'plan' }
  | { kind: 'class' };

interface OpenedPanelProps {
  equipmentClass: EquipmentClass;
  onBack: () => void;
  /** Another class was made: it is shown. */
  onMade: (uid: string) => void;
  onOpened: (opened: Opened) => void;
  opened: Opened | null;
  draft: ClassIn;
  equipment: Parameters<typeof EquipmentList>[0]['equipment'];
  onDraft: (draft: ClassIn) => void;
  onDone: () => void;
  onClose: () => void;
}

export function OpenedPanel(props: OpenedPanelProps): ReactElement | null {
  const { opened, draft, equipment, equipmentClass, onDraft, onClose } = props;
  switch (opened?.kind) {
    case 'member': {
      const member = draft.members.find((one) => one.key === opened.key);
      return member === undefined ? null : (
        <MemberPanel
          key={opened.key}
          draft={draft}
          member={member}
          equipment={equipment}
          onDraft={onDraft}
          onClose={onClose}
        />
      );
    }
    case 'logger':
      return (
        <LoggerPatternPanel
          key={opened.key}
          logger={opened.key}
          draft={draft}
          onDraft={onDraft}
          onClose={onClose}
        />
      );
    case 'new member':
      return <NewMemberPanel draft={draft} onDraft={onDraft} onClose={onClose} />;
    case 'equipment': {
      const row = equipment.find((one) => one.uid === opened.uid) ?? null;
      return (
        <EquipmentPanel
          key={opened.uid ?? `new ${opened.like ?? ''}`}
          equipmentClass={equipmentClass}
          onClose={onClose}
          equipment={row}
          like={equipment.find((one) => one.uid === opened.like) ?? null}
          onCopy={(uid) => props.onOpened({ kind: 'equipment', uid: null, like: uid })}
        />
      );
    }
    case 'plan':
      return (
        <PlanPanel
          draft={draft}
          onClose={onClose}
          onDone={props.onDone}
          uid={equipmentClass.uid}
          before={asDraft(equipmentClass)}
        />
      );
    case 'class':
      return (
        <ClassPanel
          draft={draft}
          equipmentClass={equipmentClass}
          onDraft={onDraft}
          onClose={onClose}
          onGone={props.onBack}
          onMade={props.onMade}
        />
      );
    default:
      return null;
  }
}
