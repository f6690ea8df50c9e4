/** One class: its members and its pieces; changes gather in a draft until they are done to all pieces. */
import { ArrowBack, Add } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { same } from '../../../domain/merge';
import { useWatch } from 'react-hook-form';
import { Told, useLeave } from '../../../ui';
import { shapes } from '../../../ui/form';
import { ClassLoggers } from './ClassLoggers';
import { ClassMembers } from './ClassMembers';
import { ClassPanel } from './ClassPanel';
import { Elsewhere } from '../tags/Elsewhere';
import { asDraft, classForm, type ClassIn, type EquipmentClass } from './equipment';
import { Page } from '../common/Page';
import { EquipmentList } from './EquipmentList';
import { EquipmentPanel } from './EquipmentPanel';
import { PlanPanel } from './PlanPanel';
import { MemberPanel } from './MemberPanel';
import { LoggerPatternPanel } from './LoggerPatternPanel';
import { NewMemberPanel } from './NewMemberPanel';
import { useRevisedForm } from '../common/useRevisedForm';
import { equipmentOfClassQuery } from '../../../entities/equipment';

type Opened =
  | { kind: 'member'; key: string }
  | { kind: 'logger'; key: string }
  | { kind: 'new member' }
  | { kind: 'equipment'; uid: string | null }
  | { kind: 'plan' }
  | { kind: 'class' };

/** A class is no form that is sent: what its panels change is looked at as a plan first. */
const SHAPE = shapes.shape({});

interface ClassPageProps {
  equipmentClass: EquipmentClass;
  onBack: () => void;
}

export function ClassPage({ equipmentClass, onBack }: ClassPageProps): ReactElement {
  const held = useRevisedForm(equipmentClass, classForm, SHAPE);
  const values = useWatch({ control: held.form.control }) as ClassIn;
  const draft = { ...values, revision: held.base?.revision ?? equipmentClass.revision };
  const leave = useLeave();
  const [opened, open] = useState<Opened | null>(null);
  // Members and loggers are parts of the class's own draft; a piece is a form of its own.
  const setOpened = (next: Opened | null): void => {
    if (opened?.kind === 'equipment') leave(() => open(next));
    else open(next);
  };
  const { data: equipment = [] } = useQuery(equipmentOfClassQuery(equipmentClass.uid));
  const changed = !same({ ...values, revision: 0 }, { ...classForm(held.base), revision: 0 });
  const close = (): void => setOpened(null);
  return (
    <Page
      title={draft.name}
      note={`Equipment class · ${draft.members.length} tags each · ${equipment.length} pieces`}
      actions={
        <>
          <Button size="small" startIcon={<ArrowBack />} onClick={onBack}>
            All classes
          </Button>
          <Button size="small" onClick={() => setOpened({ kind: 'class' })}>
            The class …
          </Button>
          <Button
            size="small"
            variant="outlined"
            startIcon={<Add />}
            onClick={() => setOpened({ kind: 'equipment', uid: null })}
          >
            Add equipment
          </Button>
        </>
      }
      panel={
        <OpenedPanel
          opened={opened}
          draft={draft}
          equipment={equipment}
          equipmentClass={equipmentClass}
          onBack={onBack}
          onDraft={(next) => {
            for (const [name, value] of Object.entries({ ...next, revision: 0 })) {
              held.form.setValue(name as keyof ClassIn, value, { shouldDirty: true });
            }
          }}
          onDone={() => {
            held.saved(values, null);
            open(null);
          }}
          onClose={close}
        />
      }
    >
      {changed && (
        <Box
          role="status"
          sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap', py: 0.5, mb: 1 }}
        >
          <Told>The class was changed by you; nothing is written yet.</Told>
          <Button size="small" variant="contained" onClick={() => setOpened({ kind: 'plan' })}>
            See what it does
          </Button>
          <Button size="small" onClick={() => held.form.reset()}>
            Discard
          </Button>
        </Box>
      )}
      <Elsewhere clashes={held.clashes} refused={false} onTake={held.onTake} />
      <Heading text="Equipment" />
      <EquipmentList
        equipment={equipment}
        equipmentClass={equipmentClass}
        selected={opened?.kind === 'equipment' ? opened.uid : null}
        onSelect={(uid) => setOpened({ kind: 'equipment', uid })}
      />
      <Heading text="Tags of each">
        <Button size="small" onClick={() => setOpened({ kind: 'new member' })}>
          Add a tag
        </Button>
      </Heading>
      <ClassMembers
        draft={draft}
        equipment={equipment}
        selected={opened?.kind === 'member' ? opened.key : null}
        onSelect={(key) => setOpened({ kind: 'member', key })}
      />
      <Heading text="Loggers of each" />
      <ClassLoggers
        draft={draft}
        selected={opened?.kind === 'logger' ? opened.key : null}
        onSelect={(key) => setOpened({ kind: 'logger', key })}
      />
    </Page>
  );
}

function Heading({ text, children }: { text: string; children?: ReactElement }): ReactElement {
  return (
    <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, mt: 1.5 }}>
      <Typography component="h2" variant="h2">
        {text}
      </Typography>
      {children}
    </Box>
  );
}

interface OpenedPanelProps extends ClassPageProps {
  opened: Opened | null;
  draft: ClassIn;
  equipment: Parameters<typeof EquipmentList>[0]['equipment'];
  onDraft: (draft: ClassIn) => void;
  onDone: () => void;
  onClose: () => void;
}

function OpenedPanel(props: OpenedPanelProps): ReactElement | null {
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
          key={opened.uid ?? 'new'}
          equipmentClass={equipmentClass}
          onClose={onClose}
          equipment={row}
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
        />
      );
    default:
      return null;
  }
}
