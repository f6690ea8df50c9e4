/** Archives: where history is kept, for how long, and what it costs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { written } from '../../../domain/durations';
import { momentText } from '../../../domain/time';
import { useWatch, type Control } from 'react-hook-form';
import { DataTable, Details, Removal, Switched, Told, useOpen, type Column } from '../../../ui';
import { fieldsOf, shapes } from '../../../ui/form';
import { Page } from '../common/Page';
import { StoredPanel } from '../common/StoredForm';
import { useSave } from '../common/useSave';
import { useStoredForm } from '../common/useStoredForm';
import { plantQuery } from '../../../entities/plant';
import {
  archivesQuery,
  retentionQuery,
  type Archive,
  type ArchiveIn,
  saveArchive,
  removeArchive,
} from '../../../entities/archives';

const MB = 1_000_000;
const DISKS: Record<string, string> = {
  ok: 'has room',
  low: 'is filling up',
  absent: 'is not there',
  unknown: '–',
};
const COLUMNS: Column<Archive>[] = [
  { name: 'Name', of: (row) => row.name, value: (row) => row.name, width: '24%' },
  { name: 'Keeps', of: keeps },
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

export function ArchivesPage(): ReactElement {
  const { data: archives = [] } = useQuery(archivesQuery);
  const { open, show, put } = useOpen();
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
          <ArchivePanel key={open} archive={chosen ?? null} onClose={() => show(null)} onMade={put} />
        ) : null
      }
    >
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

function whole(value: number | null | undefined): string {
  return value == null ? '–' : Math.round(value).toLocaleString('en-GB');
}

interface ArchivePanelProps {
  archive: Archive | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

/** An archive while it is edited; 0 is no limit. */
type ArchiveForm = Omit<ArchiveIn, 'keep_us' | 'keep_bytes'> & { keep_us: number; keep_mb: number };

const Fields = fieldsOf<ArchiveForm>();
const SHAPE = shapes.shape({ keep_us: shapes.duration, keep_mb: shapes.number });

function ArchivePanel({ archive, onClose, onMade }: ArchivePanelProps): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const stored = useStoredForm({
    stored: archive,
    valuesOf,
    shape: SHAPE,
    save: (values: ArchiveForm, base) => saveArchive(base, bodyOf(values)),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
    also: { keep_bytes: 'keep_mb' },
  });
  const removing = useSave(removeArchive, [], onClose);
  const zone = plant?.zone ?? 'UTC';
  return (
    <StoredPanel
      title={archive === null ? 'A new archive' : archive.name}
      onClose={onClose}
      stored={stored}
      save={archive === null ? 'Add' : 'Save'}
      said={archive === null ? null : 'Saved.'}
      actions={
        archive !== null && (
          <Removal
            what={archive.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(archive)}
          >
            The archive goes. That can be done as long as nothing was ever recorded in it.
          </Removal>
        )
      }
    >
      <Fields.Text name="name" label="Name" />
      <Fields.Duration name="keep_us" label="Keep samples for" none="for ever" />
      <Fields.Number name="keep_mb" label="At most, MB (0: no limit)" />
      <Fields.Switch name="thin" label="Keep summaries of what goes" />
      <Limits archive={archive} zone={zone} control={stored.form.control} />
      <LiveOnly control={stored.form.control} />
      {archive !== null && (
        <Details
          rows={[
            ['First sample', archive.first_us == null ? '–' : momentText(Number(archive.first_us), zone)],
            ['Lies in', archive.disk],
            ['Last sample', archive.last_us == null ? '–' : momentText(Number(archive.last_us), zone)],
          ]}
        />
      )}
    </StoredPanel>
  );
}

interface WatchingProps {
  control: Control<ArchiveForm>;
}

/** What its limits mean. */
function Limits({
  archive,
  zone,
  control,
}: WatchingProps & { archive: Archive | null; zone: string }): ReactElement | null {
  const form = useWatch({ control });
  const { keep_us, keep_mb, thin = false } = form;
  const known = typeof keep_us === 'number' && typeof keep_mb === 'number';
  if (!known || (keep_us === 0 && keep_mb === 0)) return null;
  return (
    <>
      <Told>
        What is older {keep_mb === 0 ? '' : 'or too much '}is deleted within an hour of saving, and what was
        deleted is kept on record.
      </Told>
      {archive !== null && (
        <Doomed
          uid={archive.uid}
          form={bodyOf({ ...valuesOf(archive), keep_us, keep_mb, thin })}
          zone={zone}
        />
      )}
    </>
  );
}

/** Scratch work, or the place where it lies. */
function LiveOnly({ control }: WatchingProps): ReactElement {
  const isLiveOnly = useWatch({ control, name: 'live_only' });
  return (
    <>
      <Fields.Part<boolean> name="live_only">
        {({ value, onChange, problem }) => (
          <>
            <Switched label="Live-only: for scratch work" value={value} onChange={onChange} />
            {problem !== undefined && <Told kind="error">{problem}</Told>}
          </>
        )}
      </Fields.Part>
      {isLiveOnly ? (
        <Told kind="error">
          Whatever it holds is lost each time the recorder is started: after an update, a power cut, a restart
          of the machine.
        </Told>
      ) : (
        <Fields.Text
          name="directory"
          label="Directory on the database's host"
          placeholder="where the database lies"
          hint="New months are put there; those that are there stay where they are."
        />
      )}
    </>
  );
}

function valuesOf(archive: Archive | null): ArchiveForm {
  return {
    name: archive?.name ?? '',
    keep_us: archive?.keep_us ?? 0,
    keep_mb: (archive?.keep_bytes ?? 0) / MB,
    thin: archive?.thin ?? false,
    live_only: archive?.live_only ?? false,
    directory: archive?.directory ?? '',
  };
}

function bodyOf({ keep_us, keep_mb, ...others }: ArchiveForm): ArchiveIn {
  return {
    ...others,
    keep_us: keep_us === 0 ? null : keep_us,
    keep_bytes: keep_mb === 0 ? null : Math.round(keep_mb * MB),
  };
}

/** What the limits in the form would delete now. */
function Doomed({ uid, form, zone }: { uid: string; form: ArchiveIn; zone: string }): ReactElement | null {
  const { data } = useQuery(retentionQuery(uid, form));
  if (data === undefined) return null;
  if (data.samples === 0 || data.cut_us == null) return <Told kind="good">Nothing would go now.</Told>;
  return (
    <Told kind="error">
      {whole(data.samples)} samples from before {momentText(Number(data.cut_us), zone)} would go now,{' '}
      {(data.months.reduce((sum, one) => sum + one.bytes, 0) / MB).toFixed(1)} MB
      {form.thin ? '; their summaries stay.' : '.'}
    </Told>
  );
}
