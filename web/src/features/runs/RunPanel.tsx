/** One run: when it was, what it says of itself, and what can be done with it. */
import { Button, Table, TableBody, TableCell, TableHead, TableRow } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { momentText } from '../../domain/time';
import { Details, FormActions, Panel, Removal, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';
import { attributeRows, runLength, trendLink } from './texts';
import type { Run } from '../../entities/runs';

const ORIGINS = {
  logger: 'a logger',
  tag: 'a tag that is on',
  change: 'a change of value',
  person: 'a person',
} as const;

interface RunPanelProps {
  run: Run;
  zone: string;
  nowUs: number;
  onClose: () => void;
  onEnd: (run: Run) => void;
  onRename: (run: Run, name: string) => Promise<unknown>;
  onRemove: (run: Run) => void;
}

interface Name {
  name: string;
}
const Fields = fieldsOf<Name>();
const SHAPE = shapes.shape({ name: shapes.filled('Give the run a name.') });

export function RunPanel({
  run,
  zone,
  nowUs,
  onClose,
  onEnd,
  onRename,
  onRemove,
}: RunPanelProps): ReactElement {
  const renaming = useSentForm<Name, unknown>({
    values: { name: run.name },
    shape: SHAPE,
    send: ({ name }) => onRename(run, name),
    stays: true,
  });
  const byPerson = run.origin === 'person';
  return (
    <FormFields of={renaming}>
      <Panel title={run.name} onClose={onClose} onSubmit={renaming.onSubmit}>
        <Details
          rows={[
            ['Start', momentText(Number(run.start_us), zone)],
            ['End', run.end_us === null ? 'running' : momentText(Number(run.end_us), zone)],
            ['Duration', runLength(run, nowUs)],
            [
              'Origin',
              `${ORIGINS[run.origin]}${run.rule === '' ? '' : `: ${run.rule}`}${byPerson ? ` (${run.person})` : ''}`,
            ],
          ]}
        />
        {run.cut && <Told>Its end is not known exactly: the recorder stopped while it was running.</Told>}
        <Attributes run={run} />
        <Fields.Text name="name" label="Name" />
        {renaming.general !== null && <Told kind="error">{renaming.general}</Told>}
        <FormActions save="Rename" busy={renaming.busy}>
          <Button size="small" component={Link} to={trendLink(run, nowUs)}>
            Trend
          </Button>
          {byPerson && run.end_us === null && (
            <Button size="small" variant="outlined" onClick={() => onEnd(run)}>
              End run
            </Button>
          )}
          {byPerson && (
            <Removal what={run.name} onRemove={() => onRemove(run)}>
              The run goes, with its attributes. What was recorded while it lasted stays.
            </Removal>
          )}
        </FormActions>
      </Panel>
    </FormFields>
  );
}

function Attributes({ run }: { run: Run }): ReactElement | null {
  const rows = attributeRows(run);
  if (rows.length === 0) return null;
  return (
    <Table size="small" aria-label="Attributes" sx={{ '& td, & th': { px: 0.5, borderColor: 'divider' } }}>
      <TableHead>
        <TableRow>
          <TableCell>Attribute</TableCell>
          <TableCell align="right">At the start</TableCell>
          <TableCell align="right">At the end</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map((row) => (
          <TableRow key={row.name}>
            <TableCell sx={{ typography: 'caption' }}>{row.name}</TableCell>
            <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
              {row.start}
            </TableCell>
            <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
              {row.end}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}
