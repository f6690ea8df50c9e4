/** The recorder at a glance: what is connected, what is recorded at what rate, what is late, where gaps are. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { lengthText, momentText } from '../../../domain/time';
import { DataTable, Told, type Column } from '../../../ui';
import { Page } from '../common/Page';
import { RecorderHour } from './RecorderHour';
import { StateWord } from '../common/StateWord';
import { plantQuery } from '../../../entities/plant';
import { useRecorder, type Recorder } from '../../../entities/health';

const STATES: Record<string, string> = {
  running: wording.hasRecorded,
  late: wording.hasBeenLate,
  lost: wording.hasNotRun,
  stopped: wording.hasBeenStopped,
  never_started: wording.neverRan,
};

export function RecorderPage(): ReactElement {
  const { data, error, dataUpdatedAt } = useRecorder();
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  if (data === undefined) {
    return (
      <Page title={common.recorder}>
        {error === null ? null : <Told kind="error">{errorText(error)}</Told>}
      </Page>
    );
  }
  return (
    <Page title={common.recorder} note={headline(data, zone)} isToRead>
      {error !== null && (
        <Told kind="error">{fill(wording.whatIsShownIsTheLast, { error: errorText(error) })}</Told>
      )}
      {[...data.faults, ...workerFaults(data)].map((fault) => (
        <Told key={fault} kind="error">
          {fault}
        </Told>
      ))}
      <Figures data={data} nowUs={dataUpdatedAt * 1000} />
      <Heading>{wording.theLastHour}</Heading>
      <RecorderHour />
      <Heading>{common.sources}</Heading>
      <DataTable
        label={wording.connectedSources}
        columns={sourceColumns(zone)}
        rows={data.sources}
        keyOf={(row) => row.uid}
        empty={wording.thereIsNoSourceYetAdd}
      />
      <Heading>{common.loggers}</Heading>
      <DataTable
        label={wording.activeLoggers}
        columns={LOGGER_COLUMNS}
        rows={data.loggers}
        keyOf={(row) => row.uid}
        empty={wording.nothingIsRecordedYetAddA}
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
      <Heading>{wording.disksOfTheArchives}</Heading>
      <DataTable
        label={wording.disksOfTheArchives}
        columns={DISK_COLUMNS}
        rows={data.disks}
        keyOf={(row) => row.archive}
        empty={wording.thereIsNoArchiveYet}
      />
      {data.quarantined > 0 && (
        <>
          <Heading>{fill(wording.refusedByTheDatabaseKeptIn, { quarantined: data.quarantined })}</Heading>
          <DataTable
            label={wording.refusedByTheDatabase}
            columns={quarantineColumns(zone)}
            rows={data.quarantine}
            keyOf={(row) => `${row.at_us} ${row.what} ${row.tags.join()}`}
            empty=""
          />
        </>
      )}
      <Heading>{wording.gapsInTheLast24H}</Heading>
      <DataTable
        label={wording.gapsOfTheLastDay}
        columns={gapColumns(zone)}
        rows={data.gaps}
        keyOf={(row) => `${row.start_us} ${row.reason} ${row.tag}`}
        empty={wording.noneTheRecorderWasThereAll}
      />
    </Page>
  );
}

function headline(data: Recorder, zone: string): string {
  const since =
    data.since_us == null
      ? ''
      : ` ${fill(common.sinceMoment, { moment: momentText(Number(data.since_us), zone) })}`;
  const behind =
    data.revision != null && data.revision !== data.newest_revision ? wording.takesUpAChangedSetUp : '';
  return fill(wording.theRecorderValueSinceBehind, {
    value: STATES[data.state] ?? data.state,
    since,
    behind,
  });
}

function Figures({ data, nowUs }: { data: Recorder; nowUs: number }): ReactElement {
  const known =
    data.known_until_us == null
      ? '–'
      : fill(common.lengthAgo, { length: lengthText(Math.max(0, nowUs - Number(data.known_until_us))) });
  const rows: [string, string][] = [
    [common.samplesASecond, String(data.samples_per_second ?? '–')],
    [common.committedUpTo, known],
    [
      wording.lastCommitTook,
      data.last_flush_ms == null ? '–' : fill(wording.valueMs, { value: data.last_flush_ms }),
    ],
    [common.waitingToBeCommitted, String(data.queued_samples ?? '–')],
    [common.dropped, String(data.dropped_samples ?? '–')],
    [common.lateScans, String(data.late_scans ?? '–')],
    [wording.inTheSpoolOnDisk, spoolText(data)],
    [common.inTheJournal, fill(common.valueSamples, { value: data.journal_samples })],
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
  if (data.spooled_samples === 0) return common.nothing;
  return fill(wording.valueSamplesValue2Mb, {
    value: data.spooled_samples,
    value2: (data.spool_bytes / 1e6).toFixed(1),
  });
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
    { name: common.name, of: (row) => row.name, width: '26%' },
    { name: common.state, of: (row) => <StateWord state={row.state} />, width: '14%' },
    { name: common.tags, of: (row) => row.tags, right: true, width: '8%' },
    {
      name: common.since,
      of: (row) => (row.since_us == null ? '' : momentText(Number(row.since_us), zone)),
      width: '20%',
    },
    { name: common.details, of: (row) => row.detail },
  ];
}

const LOGGER_COLUMNS: Column<Recorder['loggers'][number]>[] = [
  { name: common.name, of: (row) => row.name, width: '26%' },
  { name: common.state, of: (row) => <StateWord state={row.state} />, width: '14%' },
  { name: common.tags, of: (row) => row.members, right: true, width: '8%' },
  {
    name: common.samplesASecond,
    of: (row) => row.samples_per_second?.toFixed(1) ?? '–',
    right: true,
    width: '14%',
  },
  {
    name: common.records,
    of: (row) => fill(common.textIntoArchive, { text: row.text, archive: row.archive }),
  },
  { name: wording.why, of: (row) => row.reason },
];

const DISK_COLUMNS: Column<Recorder['disks'][number]>[] = [
  { name: common.archive, of: (row) => row.archive, width: '26%' },
  { name: wording.whereItLies, of: (row) => row.text },
];

function gapColumns(zone: string): Column<Recorder['gaps'][number]>[] {
  return [
    { name: common.from, of: (row) => momentText(Number(row.start_us), zone), width: '26%' },
    {
      name: wording.forLabel,
      of: (row) => lengthText(Number(row.end_us) - Number(row.start_us)),
      width: '14%',
    },
    { name: common.tags, of: tagsOf, width: '20%' },
    { name: wording.why, of: (row) => row.detail },
  ];
}

/** Which tags have a gap: all, one by its name, or so many. */
function tagsOf({ tags, tag }: Recorder['gaps'][number]): string {
  if (tags === 0) return common.all;
  return tags === 1 ? tag : fill(wording.tagAndRestMore, { tag, rest: tags - 1 });
}

function quarantineColumns(zone: string): Column<Recorder['quarantine'][number]>[] {
  return [
    { name: common.when, of: (row) => momentText(Number(row.at_us), zone), width: '26%' },
    { name: common.what, of: (row) => row.what, width: '14%' },
    { name: common.tags, of: (row) => row.tags.join(', '), width: '20%' },
    { name: wording.why, of: (row) => row.reason },
  ];
}

/** What is wrong with the worker, which turns the journal into history. */
function workerFaults({ worker }: Recorder): string[] {
  if (worker.state === 'silent') return [fill(wording.theWorkerDoesNotRunDetail, { detail: worker.detail })];
  return worker.state === 'failing' ? [worker.detail] : [];
}
