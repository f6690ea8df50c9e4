/** Equipment classes: what all pieces of a kind have, said once; and the pieces. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { DataTable, Told, type Column } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import type { EquipmentClass } from './equipment';
import { Page } from '../common/Page';
import { classesQuery } from '../../../entities/equipment';

const COLUMNS: Column<EquipmentClass>[] = [
  { name: 'Class', of: (row) => row.name, width: '40%' },
  { name: 'Tags each', of: (row) => row.members.length, right: true },
  { name: 'Loggers each', of: (row) => row.loggers.length, right: true },
  { name: 'Equipment', of: (row) => row.equipment, right: true },
];

const ClassPage = lazyPart('The class', async () => (await import('./ClassPage')).ClassPage);
const GatherPanel = lazyPart(
  'The panel of what is alike',
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
    return <ClassPage key={chosen.uid} equipmentClass={chosen} onBack={() => setParams({})} />;
  }
  return (
    <Page
      title="Equipment"
      note="A class says once what all equipment of its kind has: tags, loggers, limits, trend and statistics."
      actions={
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => setGathering(true)}>
          New class
        </Button>
      }
      panel={gathering ? <GatherPanel onClose={() => setGathering(false)} onMade={open} /> : null}
    >
      <DataTable
        label="Equipment classes"
        columns={COLUMNS}
        rows={classes}
        keyOf={(row) => row.uid}
        onSelect={(row) => open(row.uid)}
        empty={isSuccess ? 'There is no class yet. Make one of equipment that is alike.' : ''}
      />
      {params.get('class') !== null && isSuccess && (
        <Told kind="error">There is no such class any more.</Told>
      )}
    </Page>
  );
}
