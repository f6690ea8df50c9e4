/** Archives: where history is kept, for how long, and what it costs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { written } from '../../../domain/durations';
import { momentText } from '../../../domain/time';
import {
  DataTable,
  DurationLine,
  Details,
  FormActions,
  NumberLine,
  Panel,
  Removal,
  Switched,
  TextLine,
  Told,
  useOpen,
  type Column,
} from '../../../ui';
import { Elsewhere } from '../tags/Elsewhere';
import { Page } from '../common/Page';
import { useDraft } from '../common/useDraft';
import { useSave } from '../common/useSave';
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

function ArchivePanel({ archive, onClose, onMade }: ArchivePanelProps): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const draft = useDraft<Archive, ArchiveIn>(archive, first);
  const { form, set, base } = draft;
  const saving = useSave(
    (form: ArchiveIn) => saveArchive(base, form),
    ['name', 'keep_us', 'keep_bytes', 'directory', 'live_only'],
    (made) => onMade(made.uid),
    draft.saved,
  );
  const removing = useSave(removeArchive, [], onClose);
  const zone = plant?.zone ?? 'UTC';
  const limited = form.keep_us != null || form.keep_bytes != null;
  return (
    <Panel
      title={archive === null ? 'A new archive' : archive.name}
      onClose={onClose}
      onSubmit={() => saving.run(form)}
    >
      <TextLine
        label="Name"
        value={form.name}
        onChange={(name) => set({ name })}
        problem={saving.problem('name')}
      />
      <DurationLine
        label="Keep samples for"
        none="for ever"
        value={form.keep_us ?? 0}
        onChange={(us) => set({ keep_us: us === 0 ? null : us })}
        problem={saving.problem('keep_us')}
      />
      <NumberLine
        label="At most, MB (0: no limit)"
        value={(form.keep_bytes ?? 0) / MB}
        onChange={(mb) => set({ keep_bytes: mb === 0 ? null : Math.round(mb * MB) })}
        problem={saving.problem('keep_bytes')}
      />
      <Switched label="Keep summaries of what goes" value={form.thin} onChange={(thin) => set({ thin })} />
      {limited && (
        <Told>
          What is older {form.keep_bytes == null ? '' : 'or too much '}is deleted within an hour of saving,
          and what was deleted is kept on record.
        </Told>
      )}
      {limited && archive !== null && <Doomed uid={archive.uid} form={form} zone={zone} />}
      <Switched
        label="Live-only: for scratch work"
        value={form.live_only}
        onChange={(live_only) => set({ live_only })}
      />
      {form.live_only && (
        <Told kind="error">
          Whatever it holds is lost each time the recorder is started: after an update, a power cut, a restart
          of the machine.
        </Told>
      )}
      {saving.problem('live_only') !== undefined && <Told kind="error">{saving.problem('live_only')}</Told>}
      {!form.live_only && (
        <TextLine
          label="Directory on the database's host"
          value={form.directory}
          placeholder="where the database lies"
          onChange={(directory) => set({ directory })}
          problem={saving.problem('directory')}
          hint="New months are put there; those that are there stay where they are."
        />
      )}
      {archive !== null && (
        <Details
          rows={[
            ['First sample', archive.first_us == null ? '–' : momentText(Number(archive.first_us), zone)],
            ['Lies in', archive.disk],
            ['Last sample', archive.last_us == null ? '–' : momentText(Number(archive.last_us), zone)],
          ]}
        />
      )}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && archive !== null && <Told kind="good">Saved.</Told>}
      <FormActions save={archive === null ? 'Add' : 'Save'} busy={saving.busy}>
        {archive !== null && (
          <Removal
            what={archive.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(archive)}
          >
            The archive goes. That can be done as long as nothing was ever recorded in it.
          </Removal>
        )}
      </FormActions>
    </Panel>
  );
}

function first(archive: Archive | null): ArchiveIn {
  return {
    name: archive?.name ?? '',
    keep_us: archive?.keep_us ?? null,
    keep_bytes: archive?.keep_bytes ?? null,
    thin: archive?.thin ?? false,
    live_only: archive?.live_only ?? false,
    directory: archive?.directory ?? '',
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
