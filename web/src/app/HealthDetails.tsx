/** How the processes, sources and disks are doing, in full. */
import { Box, Popover } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/app.json';
import { fill } from '../domain/fill';
import { lengthText, momentText } from '../domain/time';
import type { Health } from '../platform/client';
import { errorText } from '../platform/errors';
import { Details as DetailRows } from '../ui';
import { faultsOf, STATES } from './health';

interface HealthDetailsProps {
  anchor: HTMLElement;
  health: Health | undefined;
  error: Error | null;
  zone: string;
  onClose: () => void;
}

export function HealthDetails({ anchor, health, error, zone, onClose }: HealthDetailsProps): ReactElement {
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': wording.health } }}
    >
      <Box sx={{ p: 2, width: 340, maxWidth: '90vw' }}>
        {health === undefined ? errorText(error) : <Details health={health} zone={zone} />}
      </Box>
    </Popover>
  );
}

function diskText(disk: Health['disks'][number]): string {
  if (disk.state === 'absent') return wording.isNotThereMountItAgain;
  const gigabytes = (bytes: number | null | undefined): string => ((bytes ?? 0) / 1e9).toFixed(1);
  const [free, total] = [gigabytes(disk.free_bytes), gigabytes(disk.total_bytes)];
  return fill(wording.freeGbOfTotalGbFree, { free, total });
}

function Details({ health, zone }: { health: Health; zone: string }): ReactElement {
  const { recorder, database } = health;
  const rows: [string, string][] = [
    [wording.database, database.state === 'up' ? 'answers' : database.detail],
  ];
  if (recorder != null) {
    rows.push([common.recorder, STATES[recorder.state] ?? recorder.state]);
    if (recorder.since_us != null) rows.push([common.since, momentText(Number(recorder.since_us), zone)]);
    if (recorder.last_flush_age_ms != null)
      rows.push([
        common.committedUpTo,
        fill(common.lengthAgo, { length: lengthText(recorder.last_flush_age_ms * 1000) }),
      ]);
    rows.push([common.samplesASecond, String(recorder.samples_per_second ?? '–')]);
    rows.push([common.waitingToBeCommitted, String(recorder.queued_samples ?? '–')]);
    rows.push([common.dropped, String(recorder.dropped_samples ?? '–')]);
    rows.push([common.lateScans, String(recorder.late_scans ?? '–')]);
    rows.push([common.inTheJournal, fill(common.valueSamples, { value: database.journal_samples ?? 0 })]);
  }
  rows.push(...faultsOf(health));
  for (const source of health.sources) {
    const since =
      source.since_us == null
        ? ''
        : ` ${fill(common.sinceMoment, { moment: momentText(Number(source.since_us), zone) })}`;
    rows.push([source.name, `${source.state}${since}`]);
  }
  for (const disk of health.disks) {
    if (disk.state === 'low' || disk.state === 'absent')
      rows.push([fill(wording.diskOfArchive, { archive: disk.archive }), diskText(disk)]);
  }
  return <DetailRows rows={rows} />;
}
