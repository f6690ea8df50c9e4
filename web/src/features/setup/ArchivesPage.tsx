/** Archives: where history is kept, for how long, and what it costs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { client, unwrap } from '../../api/client';
import { plantQuery } from '../../api/queries';
import { written } from '../../shared/lib/durations';
import { momentText } from '../../shared/lib/time';
import {
  DataTable,
  DurationLine,
  Facts,
  FormActions,
  NumberLine,
  Panel,
  Switched,
  TextLine,
  Told,
  type Column,
} from '../../shared/ui';
import { Page } from './Page';
import { archivesQuery, type Archive, type ArchiveIn } from './queries';
import { useSave } from './useSave';

const MB = 1_000_000;
const COLUMNS: Column<Archive>[] = [
  { name: 'Name', of: (row) => row.name, width: '24%' },
  { name: 'Keeps', of: keeps },
  { name: 'Loggers', of: (row) => row.loggers, right: true },
  { name: 'Samples', of: (row) => whole(row.samples), right: true },
  { name: 'Size', of: (row) => `${(row.bytes / MB).toFixed(1)} MB`, right: true },
  { name: 'Samples a day', of: (row) => whole(row.samples_per_day), right: true },
  {
    name: 'MB a year',
    of: (row) => (row.megabytes_per_year == null ? '–' : row.megabytes_per_year.toFixed(0)),
    right: true,
  },
];

export function ArchivesPage(): ReactElement {
  const { data: archives = [] } = useQuery(archivesQuery);
  const [open, setOpen] = useState<string | null>(null);
  const chosen = archives.find((one) => one.uid === open);
  return (
    <Page
      title="Archives"
      note="Places where history is kept. Samples and sizes are those in segments, the last minutes not yet among them."
      actions={
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => setOpen('new')}>
          Add an archive
        </Button>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <ArchivePanel key={open} archive={chosen ?? null} onClose={() => setOpen(null)} onMade={setOpen} />
        ) : null
      }
    >
      <DataTable
        label="Archives"
        columns={COLUMNS}
        rows={archives}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => setOpen(row.uid)}
        empty="There is no archive yet. Loggers need one to record into."
      />
    </Page>
  );
}

function keeps(row: Archive): string {
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
  const [facts, setFacts] = useState<ArchiveIn>({
    name: archive?.name ?? '',
    keep_us: archive?.keep_us ?? null,
    keep_bytes: archive?.keep_bytes ?? null,
    thin: archive?.thin ?? false,
  });
  const saving = useSave(
    async (wanted: ArchiveIn) =>
      archive === null
        ? unwrap(await client.POST('/api/setup/archives', { body: wanted }))
        : unwrap(
            await client.PUT('/api/setup/archives/{uid}', {
              params: { path: { uid: archive.uid } },
              body: { ...wanted, revision: archive.revision },
            }),
          ),
    ['name', 'keep_us', 'keep_bytes'],
    (made) => onMade(made.uid),
  );
  const zone = plant?.zone ?? 'UTC';
  const limited = facts.keep_us != null || facts.keep_bytes != null;
  return (
    <Panel
      title={archive === null ? 'A new archive' : archive.name}
      onClose={onClose}
      onSubmit={() => saving.run(facts)}
    >
      <TextLine
        label="Name"
        value={facts.name}
        onChange={(name) => setFacts({ ...facts, name })}
        problem={saving.problem('name')}
      />
      <DurationLine
        label="Keep samples for"
        none="for ever"
        value={facts.keep_us ?? 0}
        onChange={(us) => setFacts({ ...facts, keep_us: us === 0 ? null : us })}
        problem={saving.problem('keep_us')}
      />
      <NumberLine
        label="At most, MB (0: no limit)"
        value={(facts.keep_bytes ?? 0) / MB}
        onChange={(mb) => setFacts({ ...facts, keep_bytes: mb === 0 ? null : Math.round(mb * MB) })}
        problem={saving.problem('keep_bytes')}
      />
      <Switched
        label="Keep summaries of what goes"
        value={facts.thin}
        onChange={(thin) => setFacts({ ...facts, thin })}
      />
      {limited && (
        <Told>
          What is older {facts.keep_bytes == null ? '' : 'or too much '}is deleted within an hour of saving,
          and what was deleted is kept on record.
        </Told>
      )}
      {archive !== null && (
        <Facts
          rows={[
            ['First sample', archive.first_us == null ? '–' : momentText(Number(archive.first_us), zone)],
            ['Last sample', archive.last_us == null ? '–' : momentText(Number(archive.last_us), zone)],
          ]}
        />
      )}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      {saving.done && archive !== null && <Told kind="good">Saved.</Told>}
      <FormActions save={archive === null ? 'Add' : 'Save'} busy={saving.busy} />
    </Panel>
  );
}
