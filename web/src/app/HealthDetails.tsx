/** How the processes, sources and disks are doing, in full. */
import { Box, Popover } from '@mui/material';
import type { ReactElement } from 'react';
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
      slotProps={{ paper: { role: 'dialog', 'aria-label': 'Health' } }}
    >
      <Box sx={{ p: 2, width: 340, maxWidth: '90vw' }}>
        {health === undefined ? errorText(error) : <Details health={health} zone={zone} />}
      </Box>
    </Popover>
  );
}

function diskText(disk: Health['disks'][number]): string {
  if (disk.state === 'absent') return 'is not there: mount it again';
  const [free, total] = [disk.free_bytes ?? 0, disk.total_bytes ?? 0].map((bytes) =>
    (bytes / 1e9).toFixed(1),
  );
  return `${free} GB of ${total} GB free`;
}

function Details({ health, zone }: { health: Health; zone: string }): ReactElement {
  const { recorder, database } = health;
  const rows: [string, string][] = [['Database', database.state === 'up' ? 'answers' : database.detail]];
  if (recorder != null) {
    rows.push(['Recorder', STATES[recorder.state] ?? recorder.state]);
    if (recorder.since_us != null) rows.push(['Since', momentText(Number(recorder.since_us), zone)]);
    if (recorder.last_flush_age_ms != null)
      rows.push(['Committed up to', `${lengthText(recorder.last_flush_age_ms * 1000)} ago`]);
    rows.push(['Samples a second', String(recorder.samples_per_second ?? '–')]);
    rows.push(['Waiting to be committed', String(recorder.queued_samples ?? '–')]);
    rows.push(['Dropped', String(recorder.dropped_samples ?? '–')]);
    rows.push(['Late scans', String(recorder.late_scans ?? '–')]);
    rows.push(['In the journal', `${database.journal_samples ?? 0} samples`]);
  }
  rows.push(...faultsOf(health));
  for (const source of health.sources) {
    const since = source.since_us == null ? '' : ` since ${momentText(Number(source.since_us), zone)}`;
    rows.push([source.name, `${source.state}${since}`]);
  }
  for (const disk of health.disks) {
    if (disk.state === 'low' || disk.state === 'absent')
      rows.push([`Disk of ${disk.archive}`, diskText(disk)]);
  }
  return <DetailRows rows={rows} />;
}
