/** Who changed what and when. */
import { Box, Button, Typography } from '@mui/material';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { momentText } from '../../../domain/time';
import { Choice, DataTable, Panel, Told } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { Page } from '../common/Page';
import { useSave } from '../common/useSave';
import { plantQuery } from '../../../entities/plant';
import { changesQuery, type Change, restoreChange } from '../../../entities/setup';

const KINDS = [
  { value: '', label: 'everything' },
  { value: 'source', label: 'sources' },
  { value: 'tag', label: 'tags' },
  { value: 'logger', label: 'loggers' },
  { value: 'archive', label: 'archives' },
  { value: 'equipment_class', label: 'equipment classes' },
  { value: 'equipment', label: 'equipment' },
  { value: 'plant', label: 'the plant' },
];

const DocumentPanel = lazyPart(
  'The panel of the set-up file',
  async () => (await import('./DocumentPanel')).DocumentPanel,
);
const PRELOADED = [DocumentPanel];

export function ChangesPage(): ReactElement {
  const [kind, setKind] = useState('');
  const { data, hasNextPage, fetchNextPage } = useInfiniteQuery(changesQuery(kind));
  usePreloaded(data !== undefined, PRELOADED);
  const { data: plant } = useQuery(plantQuery);
  const [open, setOpen] = useState<Change | null>(null);
  const [file, setFile] = useState(false);
  const zone = plant?.zone ?? 'UTC';
  return (
    <Page
      title="Changes"
      note="Who changed what and when, newest first."
      actions={
        <>
          <Box sx={{ width: 160 }}>
            <Choice label="of" value={kind} options={KINDS} onChange={setKind} />
          </Box>
          <Button
            size="small"
            variant="outlined"
            onClick={() => {
              setOpen(null);
              setFile(true);
            }}
          >
            The set-up as a file
          </Button>
        </>
      }
      panel={
        file && open === null ? (
          <DocumentPanel onClose={() => setFile(false)} />
        ) : open === null ? null : (
          <Panel title={`${open.name}: ${open.action}`} onClose={() => setOpen(null)}>
            <Differences change={open} />
            {open.before != null && <Restore key={open.change_id} change={open} />}
          </Panel>
        )
      }
    >
      <DataTable
        label="Changes"
        columns={[
          {
            name: 'When',
            of: (row) => momentText(Number(row.created_us), zone),
            value: (row) => row.created_us,
            width: '22%',
          },
          { name: 'Who', of: (row) => row.person, value: (row) => row.person, width: '14%' },
          { name: 'What', of: (row) => `${row.kind.replaceAll('_', ' ')} ${row.action}`, width: '18%' },
          { name: 'Name', of: (row) => row.name, value: (row) => row.name },
          { name: 'Fields', of: (row) => fields(row).join(', ') },
        ]}
        rows={data?.pages.flat() ?? []}
        keyOf={(row) => String(row.change_id)}
        selected={open === null ? null : String(open.change_id)}
        onSelect={setOpen}
        empty="Nothing was changed yet."
      />
      {hasNextPage && (
        <Button size="small" onClick={() => void fetchNextPage()}>
          Older ones
        </Button>
      )}
    </Page>
  );
}

/** The form that differ; none where an object came or went. */
function fields({ before, after }: Change): string[] {
  if (before == null || after == null) return [];
  return Object.keys({ ...before, ...after }).filter(
    (name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
}

/** Gives the object the form it had before; that is a change of its own, on record like any other. */
function Restore({ change }: { change: Change }): ReactElement {
  const restoring = useSave(() => restoreChange(change.change_id));
  return (
    <>
      <Box>
        <Button size="small" variant="outlined" disabled={restoring.busy} onClick={() => restoring.run(null)}>
          {change.after == null ? `Bring ${change.name} back` : 'Restore what was before'}
        </Button>
      </Box>
      {restoring.done && <Told kind="good">Done. It takes effect within 2 s.</Told>}
      {restoring.general !== null && <Told kind="error">{restoring.general}</Told>}
    </>
  );
}

function Differences({ change }: { change: Change }): ReactElement {
  const { before, after } = change;
  const names = before == null || after == null ? Object.keys(after ?? before ?? {}) : fields(change);
  return (
    <>
      {names.map((name) => (
        <Box key={name}>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {name}
          </Typography>
          {before != null && (
            <Typography component="s" variant="body2" sx={{ display: 'block', wordBreak: 'break-word' }}>
              {shown(before[name])}
            </Typography>
          )}
          {after != null && (
            <Typography variant="body2" sx={{ wordBreak: 'break-word' }}>
              {shown(after[name])}
            </Typography>
          )}
        </Box>
      ))}
    </>
  );
}

function shown(value: unknown): string {
  if (Array.isArray(value) && value.length > 12) return `${value.length} of them`;
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) {
    const form = Object.entries(value).map(([name, one]) => `${name} ${shown(one)}`);
    return form.length === 0 ? '–' : form.join(', ');
  }
  return typeof value === 'string' ? value : JSON.stringify(value);
}
