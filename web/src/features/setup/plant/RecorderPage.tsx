/** The recorder at a glance: what is connected, what is recorded at what rate, what is late, where gaps are. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { lengthText, momentText } from '../../../domain/time';
import { DataTable, Told, type Column } from '../../../ui';
import { Page } from '../common/Page';
import { StateWord } from '../common/StateWord';
import { plantQuery } from '../../../entities/plant';
import { useRecorder, type Recorder } from '../../../entities/health';

const STATES: Record<string, string> = {
  running: 'records',
  late: 'is late',
  lost: 'does not run',
  stopped: 'was stopped',
  never_started: 'never ran',
};

export function RecorderPage(): ReactElement {
  const { data, error, dataUpdatedAt } = useRecorder();
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  if (data === undefined) {
    return (
      <Page title="Recorder">{error === null ? null : <Told kind="error">{errorText(error)}</Told>}</Page>
    );
  }
  return (
    <Page title="Recorder" note={headline(data, zone)} isToRead>
      {error !== null && <Told kind="error">What is shown is the last known state. {errorText(error)}</Told>}
      {[...data.faults, ...workerFaults(data)].map((fault) => (
        <Told key={fault} kind="error">
          {fault}
        </Told>
      ))}
      <Figures data={data} nowUs={dataUpdatedAt * 1000} />
      <Heading>Sources</Heading>
      <DataTable
        label="Sources at work"
        columns={sourceColumns(zone)}
        rows={data.sources}
        keyOf={(row) => row.uid}
        empty="There is no source yet. Add one under Sources."
      />
      <Heading>Loggers</Heading>
      <DataTable
        label="Loggers at work"
        columns={LOGGER_COLUMNS}
        rows={data.loggers}
        keyOf={(row) => row.uid}
        empty="Nothing is recorded yet. Add a logger under Loggers."
      />
      {data.disks.some((one) => one.state === 'low' || one.state === 'absent') && (
        <Box sx={{ mt: 1.5 }}>
          {data.disks
            .filter((one) => one.state === 'low' || one.state === 'absent')
            .map((one) => (
              <Told key={one.archive} kind="error">
                {one.archive}: {one.text}
              </Told>
            ))}
        </Box>
      )}
      <Heading>Disks of the archives</Heading>
      <DataTable
        label="Disks of the archives"
        columns={DISK_COLUMNS}
        rows={data.disks}
        keyOf={(row) => row.archive}
        empty="There is no archive yet."
      />
      {data.quarantined > 0 && (
        <>
          <Heading>{`Refused by the database, kept in the quarantine: ${data.quarantined}`}</Heading>
          <DataTable
            label="Refused by the database"
            columns={quarantineColumns(zone)}
            rows={data.quarantine}
            keyOf={(row) => `${row.at_us} ${row.what} ${row.tags.join()}`}
            empty=""
          />
        </>
      )}
      <Heading>Gaps in the last 24 h</Heading>
      <DataTable
        label="Gaps of the last day"
        columns={gapColumns(zone)}
        rows={data.gaps}
        keyOf={(row) => `${row.start_us} ${row.reason} ${row.tag}`}
        empty="None: the recorder was there all the time."
      />
    </Page>
  );
}

function headline(data: Recorder, zone: string): string {
  const since = data.since_us == null ? '' : ` since ${momentText(Number(data.since_us), zone)}`;
  const behind =
    data.revision != null && data.revision !== data.newest_revision ? ', takes up a changed set-up' : '';
  return `The recorder ${STATES[data.state] ?? data.state}${since}${behind}.`;
}

function Figures({ data, nowUs }: { data: Recorder; nowUs: number }): ReactElement {
  const known =
    data.known_until_us == null ? '–' : `${lengthText(Math.max(0, nowUs - Number(data.known_until_us)))} ago`;
  const rows: [string, string][] = [
    ['Samples a second', String(data.samples_per_second ?? '–')],
    ['Committed up to', known],
    ['Last commit took', data.last_flush_ms == null ? '–' : `${data.last_flush_ms} ms`],
    ['Waiting to be committed', String(data.queued_samples ?? '–')],
    ['Dropped', String(data.dropped_samples ?? '–')],
    ['Late scans', String(data.late_scans ?? '–')],
    ['In the spool on disk', spoolText(data)],
    ['In the journal', `${data.journal_samples} samples`],
  ];
  return (
    <Box component="dl" sx={{ m: 0, display: 'flex', flexWrap: 'wrap', columnGap: 4, rowGap: 1 }}>
      {rows.map(([name, value]) => (
        <Box key={name}>
          <Typography component="dt" variant="caption" sx={{ color: 'text.secondary' }}>
            {name}
          </Typography>
          <Typography component="dd" variant="subtitle1" sx={{ m: 0 }}>
            {value}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}

/** What waits on disk while the database is away. */
function spoolText(data: Recorder): string {
  if (data.spooled_samples == null || data.spool_bytes == null) return '–';
  if (data.spooled_samples === 0) return 'nothing';
  return `${data.spooled_samples} samples, ${(data.spool_bytes / 1e6).toFixed(1)} MB`;
}

function Heading({ children }: { children: string }): ReactElement {
  return (
    <Typography component="h2" variant="h2" sx={{ mt: 2.5, mb: 0.5 }}>
      {children}
    </Typography>
  );
}

function sourceColumns(zone: string): Column<Recorder['sources'][number]>[] {
  return [
    { name: 'Name', of: (row) => row.name, width: '26%' },
    { name: 'State', of: (row) => <StateWord state={row.state} />, width: '14%' },
    { name: 'Tags', of: (row) => row.tags, right: true, width: '8%' },
    {
      name: 'Since',
      of: (row) => (row.since_us == null ? '' : momentText(Number(row.since_us), zone)),
      width: '20%',
    },
    { name: 'Details', of: (row) => row.detail },
  ];
}

const LOGGER_COLUMNS: Column<Recorder['loggers'][number]>[] = [
  { name: 'Name', of: (row) => row.name, width: '26%' },
  { name: 'State', of: (row) => <StateWord state={row.state} />, width: '14%' },
  { name: 'Tags', of: (row) => row.members, right: true, width: '8%' },
  {
    name: 'Samples a second',
    of: (row) => row.samples_per_second?.toFixed(1) ?? '–',
    right: true,
    width: '14%',
  },
  { name: 'Records', of: (row) => `${row.text}, into ${row.archive}` },
  { name: 'Why', of: (row) => row.reason },
];

const DISK_COLUMNS: Column<Recorder['disks'][number]>[] = [
  { name: 'Archive', of: (row) => row.archive, width: '26%' },
  { name: 'Where it lies', of: (row) => row.text },
];

function gapColumns(zone: string): Column<Recorder['gaps'][number]>[] {
  return [
    { name: 'From', of: (row) => momentText(Number(row.start_us), zone), width: '26%' },
    { name: 'For', of: (row) => lengthText(Number(row.end_us) - Number(row.start_us)), width: '14%' },
    { name: 'Tags', of: tagsOf, width: '20%' },
    { name: 'Why', of: (row) => row.detail },
  ];
}

/** Which tags have a gap: all, one by its name, or so many. */
function tagsOf({ tags, tag }: Recorder['gaps'][number]): string {
  if (tags === 0) return 'all';
  return tags === 1 ? tag : `${tag} and ${tags - 1} more`;
}

function quarantineColumns(zone: string): Column<Recorder['quarantine'][number]>[] {
  return [
    { name: 'When', of: (row) => momentText(Number(row.at_us), zone), width: '26%' },
    { name: 'What', of: (row) => row.what, width: '14%' },
    { name: 'Tags', of: (row) => row.tags.join(', '), width: '20%' },
    { name: 'Why', of: (row) => row.reason },
  ];
}

/** What is wrong with the worker, which turns the journal into history. */
function workerFaults({ worker }: Recorder): string[] {
  if (worker.state === 'silent') return [`The worker does not run. ${worker.detail}`];
  return worker.state === 'failing' ? [worker.detail] : [];
}
