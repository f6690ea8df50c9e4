/** One class: its members and its pieces; changes gather in a draft until they are done to all pieces. */
import { ArrowBack, Add } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { same } from '../../../domain/merge';
import { useWatch } from 'react-hook-form';
import { hasUnusable, Told, useLeave, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { ClassLoggers } from './ClassLoggers';
import type { Opened } from './ClassPanels';
import { ClassMembers } from './ClassMembers';
import { Elsewhere } from '../tags/Elsewhere';
import { classForm, type ClassIn, type EquipmentClass } from './equipment';
import { Page } from '../common/Page';
import { EquipmentList } from './EquipmentList';
import { useRevisedForm } from '../common/useRevisedForm';
import { equipmentOfClassQuery } from '../../../entities/equipment';

const OpenedPanel = lazyPart(common.thisPanel, async () => (await import('./ClassPanels')).OpenedPanel);
const PRELOADED = [OpenedPanel];

interface ClassPageProps {
  equipmentClass: EquipmentClass;
  onBack: () => void;
  /** Shows another class. */
  onMade: (uid: string) => void;
}

export function ClassPage({ equipmentClass, onBack, onMade }: ClassPageProps): ReactElement {
  // A class is no form that is sent: what its panels change is looked at as a plan first.
  const held = useRevisedForm(equipmentClass, classForm);
  const values = useWatch({ control: held.form.control }) as ClassIn;
  const draft = { ...values, revision: held.base?.revision ?? equipmentClass.revision };
  const leave = useLeave();
  const [opened, open] = useState<Opened | null>(null);
  // Members and loggers are parts of the class's own draft; a piece is a form of its own.
  const panel = useRef<HTMLElement>(null);
  const setOpened = (next: Opened | null): void => {
    // What was mistyped is not in the draft: it would be lost.
    if (panel.current !== null && hasUnusable(panel.current)) return;
    if (opened?.kind === 'equipment') leave(() => open(next));
    else open(next);
  };
  const { data: equipment = [], isSuccess } = useQuery(equipmentOfClassQuery(equipmentClass.uid));
  usePreloaded(isSuccess, PRELOADED);
  const changed = !same({ ...values, revision: 0 }, { ...classForm(held.base), revision: 0 });
  const close = (): void => setOpened(null);
  return (
    <Page
      title={draft.name}
      note={fill(wording.equipmentClassMembersTagsEachCount, {
        members: draft.members.length,
        count: equipment.length,
      })}
      actions={
        <>
          <Button size="small" startIcon={<ArrowBack />} onClick={onBack}>
            {wording.allClasses}
          </Button>
          <Button size="small" onClick={() => setOpened({ kind: 'class' })}>
            {wording.theClassLabel}
          </Button>
          <Offered>
            {' '}
            <Button
              size="small"
              variant="outlined"
              startIcon={<Add />}
              onClick={() => setOpened({ kind: 'equipment', uid: null })}
            >
              {wording.addEquipment}
            </Button>
          </Offered>
        </>
      }
      panel={
        <Box ref={panel} sx={{ display: 'contents' }}>
          <OpenedPanel
            opened={opened}
            draft={draft}
            equipment={equipment}
            equipmentClass={equipmentClass}
            onBack={onBack}
            onMade={onMade}
            onOpened={setOpened}
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
        </Box>
      }
    >
      {changed && (
        <Box
          role="status"
          sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap', py: 0.5, mb: 1 }}
        >
          <Told>{wording.theClassWasChangedByYou}</Told>
          <Offered>
            {' '}
            <Button size="small" variant="contained" onClick={() => setOpened({ kind: 'plan' })}>
              {wording.previewTheChange}
            </Button>
          </Offered>
          <Button size="small" onClick={() => held.form.reset()}>
            {common.discard}
          </Button>
        </Box>
      )}
      <Elsewhere clashes={held.clashes} refused={false} onTake={held.onTake} />
      <Heading text={common.equipment} />
      <EquipmentList
        equipment={equipment}
        equipmentClass={equipmentClass}
        selected={opened?.kind === 'equipment' ? opened.uid : null}
        onSelect={(uid) => setOpened({ kind: 'equipment', uid })}
      />
      <Heading text={wording.tagsOfEach}>
        <Offered>
          {' '}
          <Button size="small" onClick={() => setOpened({ kind: 'new member' })}>
            {common.addATag}
          </Button>
        </Offered>
      </Heading>
      <ClassMembers
        draft={draft}
        equipment={equipment}
        selected={opened?.kind === 'member' ? opened.key : null}
        onSelect={(key) => setOpened({ kind: 'member', key })}
      />
      <Heading text={wording.loggersOfEach} />
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
