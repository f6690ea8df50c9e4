/** Archives: where history is kept, for how long, and what it costs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { written } from '../../../domain/durations';
import { DataTable, useOpen, type Column } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { archivesQuery, type Archive } from '../../../entities/archives';
import { MB, whole } from './archiveTexts';

const DISKS: Record<string, string> = {
  ok: 'has room',
  low: 'is filling up',
  absent: 'is not there',
  unknown: '–',
};
const COLUMNS: Column<Archive>[] = [
  { name: 'Name', of: (row) => row.name, value: (row) => row.name, width: '24%' },
  { name: 'Retention', of: keeps },
  { name: 'Loggers', of: (row) => row.loggers, right: true },
  { name: 'Samples', of: (row) => whole(row.samples), value: (row) => row.samples, right: true },
  { name: 'Size', of: (row) => `${(row.bytes / MB).toFixed(1)} MB`, value: (row) => row.bytes, right: true },
  { name: 'Samples a day', of: (row) => whole(row.samples_per_day), right: true },
  {
    name: 'MB a year',
    of: (row) => (row.megabytes_per_year == null ? '–' : row.megabytes_per_year.toFixed(0)),
    right: true,
  },
  { name: 'Disk', of: (row) => DISKS[row.disk_state] ?? row.disk_state },
];

const ArchivePanel = lazyPart(
  'The panel of the archive',
  async () => (await import('./ArchivePanel')).ArchivePanel,
);
const PRELOADED = [ArchivePanel];

export function ArchivesPage(): ReactElement {
  const { data: archives = [], isSuccess, isFetching } = useQuery(archivesQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { open, like, show, put } = useOpen(useAddress());
  const chosen = archives.find((one) => one.uid === open);
  return (
    <Page
      title="Archives"
      note="Places where history is kept. Samples and sizes are those in segments, the last minutes not yet among them."
      actions={
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
          Add an archive
        </Button>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <ArchivePanel
            key={`${open} ${like}`}
            archive={chosen ?? null}
            like={archives.find((one) => one.uid === like) ?? null}
            onClose={() => show(null)}
            onMade={put}
          />
        ) : null
      }
    >
      <Gone what="archive" open={open} list={archives} isKnown={isSuccess && !isFetching} />
      <DataTable
        label="Archives"
        columns={COLUMNS}
        rows={archives}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty="There is no archive yet. Loggers need one to record into."
      />
    </Page>
  );
}

function keeps(row: Archive): string {
  if (row.live_only) return 'until the recorder starts anew';
  const parts = [
    row.keep_us == null ? '' : written(row.keep_us),
    row.keep_bytes == null ? '' : `at most ${Math.round(row.keep_bytes / MB)} MB`,
  ].filter(Boolean);
  const rest = row.thin ? ', then summaries' : '';
  return parts.length === 0 ? 'for ever' : parts.join(', ') + rest;
}
