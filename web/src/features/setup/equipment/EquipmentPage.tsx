/** Equipment classes: what all pieces of a kind have, said once; and the pieces. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { DataTable, Told, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import type { EquipmentClass } from './equipment';
import { Page } from '../common/Page';
import { classesQuery } from '../../../entities/equipment';

const COLUMNS: Column<EquipmentClass>[] = [
  { name: wording.classLabel, of: (row) => row.name, width: '40%' },
  { name: wording.tagsEach, of: (row) => row.members.length, right: true },
  { name: wording.loggersEach, of: (row) => row.loggers.length, right: true },
  { name: common.equipment, of: (row) => row.equipment, right: true },
];

const ClassPage = lazyPart(wording.theClass, async () => (await import('./ClassPage')).ClassPage);
const GatherPanel = lazyPart(
  wording.thePanelOfEquipmentThatIs,
  async () => (await import('./GatherPanel')).GatherPanel,
);
const PRELOADED = [ClassPage, GatherPanel];

export function EquipmentPage(): ReactElement {
  const { data: classes = [], isSuccess } = useQuery(classesQuery);
  usePreloaded(isSuccess, PRELOADED);
  const [params, setParams] = useSearchParams();
  const [gathering, setGathering] = useState(false);
  const chosen = classes.find((one) => one.uid === params.get('class'));
  const open = (uid: string): void => setParams({ class: uid });
  if (chosen !== undefined) {
    return <ClassPage key={chosen.uid} equipmentClass={chosen} onBack={() => setParams({})} onMade={open} />;
  }
  return (
    <Page
      title={common.equipment}
      note={wording.aClassSaysOnceWhatAll}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => setGathering(true)}>
            {wording.newClass}
          </Button>
        </Offered>
      }
      panel={gathering ? <GatherPanel onClose={() => setGathering(false)} onMade={open} /> : null}
    >
      <DataTable
        label={wording.equipmentClasses}
        columns={COLUMNS}
        rows={classes}
        keyOf={(row) => row.uid}
        onSelect={(row) => open(row.uid)}
        empty={isSuccess ? wording.thereIsNoClassYetMake : ''}
      />
      {params.get('class') !== null && isSuccess && <Told kind="error">{wording.thereIsNoSuchClassAny}</Told>}
    </Page>
  );
}
