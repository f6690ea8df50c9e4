/** Archives: where history is kept, for how long, and what it costs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { written } from '../../../domain/durations';
import { DataTable, useOpen, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { useAddress } from '../../../platform/useAddress';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { archivesQuery, type Archive } from '../../../entities/archives';
import { MB, whole } from './archiveTexts';

const DISKS: Record<string, string> = {
  ok: wording.hasRoom,
  low: wording.isFillingUp,
  absent: wording.isNotThere,
  unknown: '–',
};
const COLUMNS: Column<Archive>[] = [
  { name: common.name, of: (row) => row.name, value: (row) => row.name, width: '24%' },
  { name: wording.retention, of: keeps },
  { name: common.loggers, of: (row) => row.loggers, right: true },
  { name: common.samples, of: (row) => whole(row.samples), value: (row) => row.samples, right: true },
  {
    name: wording.size,
    of: (row) => fill(wording.bytesMb, { bytes: (row.bytes / MB).toFixed(1) }),
    value: (row) => row.bytes,
    right: true,
  },
  { name: common.samplesADay, of: (row) => whole(row.samples_per_day), right: true },
  {
    name: common.mbAYear,
    of: (row) => (row.megabytes_per_year == null ? '–' : row.megabytes_per_year.toFixed(0)),
    right: true,
  },
  { name: wording.disk, of: (row) => DISKS[row.disk_state] ?? row.disk_state },
];

const ArchivePanel = lazyPart(
  wording.thePanelOfTheArchive,
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
      title={common.archives}
      note={wording.placesWhereHistoryIsKeptSamples}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
            {wording.addAnArchive}
          </Button>
        </Offered>
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
      <Gone what={wording.archive} open={open} list={archives} isKnown={isSuccess && !isFetching} />
      <DataTable
        label={common.archives}
        columns={COLUMNS}
        rows={archives}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={wording.thereIsNoArchiveYetLoggers}
      />
    </Page>
  );
}

function keeps(row: Archive): string {
  if (row.live_only) return wording.untilTheRecorderStartsAnew;
  const parts = [
    row.keep_us == null ? '' : written(row.keep_us),
    row.keep_bytes == null ? '' : fill(wording.atMostValueMb, { value: Math.round(row.keep_bytes / MB) }),
  ].filter(Boolean);
  const rest = row.thin ? wording.thenSummaries : '';
  return parts.length === 0 ? wording.forEver : parts.join(', ') + rest;
}
