import { Box, Button, Popover } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import type { Health } from '../platform/client';
import { errorText } from '../platform/errors';
import { lengthText, momentText } from '../domain/time';
import { Details as DetailRows } from '../ui';
import { healthQuery } from '../entities/health';
import { plantQuery } from '../entities/plant';

/** The recorder's health in the top bar; a click opens the details. */
export function HealthBadge(): ReactElement {
  const { data, error } = useQuery(healthQuery);
  const { data: plant } = useQuery(plantQuery);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const failed = error !== null || data === undefined || data.status !== 'ok';
  return (
    <>
      <Button
        size="small"
        color="inherit"
        aria-haspopup="dialog"
        data-testid="health"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          fontSize: 13,
          fontWeight: 400,
          color: failed && data !== undefined ? 'error.main' : 'text.secondary',
        }}
      >
        {error === null ? headline(data) : 'No answer from the server'}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Health' } }}
      >
        <Box sx={{ p: 2, width: 340, maxWidth: '90vw' }}>
          {data === undefined ? errorText(error) : <Details health={data} zone={plant?.zone ?? 'UTC'} />}
        </Box>
      </Popover>
    </>
  );
}

const STATES: Record<string, string> = {
  running: 'Recording',
  late: 'Recorder late',
  lost: 'Recorder does not run',
  stopped: 'Recorder stopped',
  never_started: 'Recorder never ran',
};

function headline(health: Health | undefined): string {
  if (health === undefined) return '…';
  if (health.recorder == null) return 'Database away';
  const up = health.sources.filter((source) => source.state === 'up').length;
  const rate =
    health.recorder.state === 'running' ? ` ${Math.round(health.recorder.samples_per_second ?? 0)}/s` : '';
  const state = STATES[health.recorder.state] ?? health.recorder.state;
  const count = faultsOf(health).length;
  const faults = count === 0 ? '' : count === 1 ? ' · 1 fault' : ` · ${count} faults`;
  return `${state}${rate} · ${up} of ${health.sources.length} sources${faults}`;
}

/** What is wrong inside, beside sources and disks: what it is, and in words. */
function faultsOf({ recorder, worker, faults }: Health): [string, string][] {
  const found: [string, string][] = [];
  const refused = recorder?.quarantined ?? 0;
  if (refused > 0)
    found.push(['Quarantine', `${refused} parts refused by the database, see Set-up, Recorder`]);
  const inside = recorder?.faults ?? 0;
  if (inside > 0) found.push(['Recorder', `${inside} faults inside it, see Set-up, Recorder`]);
  if (worker?.state === 'failing' || worker?.state === 'silent')
    found.push(['Worker', `${worker.state}, see Set-up, Recorder`]);
  for (const task of faults) found.push(['Server', `its task ${task} failed and was started again`]);
  return found;
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
