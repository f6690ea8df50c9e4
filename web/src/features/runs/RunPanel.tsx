/** One run: when it was, what it says of itself, and what can be done with it. */
import { Button, Table, TableBody, TableCell, TableHead, TableRow } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/runs.json';
import { momentText } from '../../domain/time';
import { Details, FormActions, Panel, Removal, Told, Offered } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';
import { attributeRows, runLength, trendLink } from './texts';
import type { Run } from '../../entities/runs';
import { Needs } from '../../entities/access/Needs';

const ORIGINS = {
  logger: wording.aLogger,
  tag: wording.aTagThatIsOn,
  change: wording.aChangeOfValue,
  person: wording.aPerson,
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
const SHAPE = shapes.shape({ name: shapes.filled(wording.giveTheRunAName) });

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
    <Needs permission="annotate">
      <FormFields of={renaming}>
        <Panel title={run.name} onClose={onClose} onSubmit={renaming.onSubmit}>
          <Details
            rows={[
              [wording.start, momentText(Number(run.start_us), zone)],
              [wording.end, run.end_us === null ? 'running' : momentText(Number(run.end_us), zone)],
              [wording.duration, runLength(run, nowUs)],
              [
                wording.origin,
                `${ORIGINS[run.origin]}${run.rule === '' ? '' : `: ${run.rule}`}${byPerson ? ` (${run.person})` : ''}`,
              ],
            ]}
          />
          {run.cut && <Told>{wording.itsEndIsNotKnownExactly}</Told>}
          <Attributes run={run} />
          <Fields.Text name="name" label={common.name} />
          {renaming.general !== null && <Told kind="error">{renaming.general}</Told>}
          <FormActions save={wording.rename} busy={renaming.busy}>
            <Button size="small" component={Link} to={trendLink(run, nowUs)}>
              {common.trend}
            </Button>
            {byPerson && run.end_us === null && (
              <Offered>
                {' '}
                <Button size="small" variant="outlined" onClick={() => onEnd(run)}>
                  {wording.endRun}
                </Button>
              </Offered>
            )}
            {byPerson && (
              <Removal what={run.name} onRemove={() => onRemove(run)}>
                {wording.theRunGoesWithItsAttributes}
              </Removal>
            )}
          </FormActions>
        </Panel>
      </FormFields>
    </Needs>
  );
}

function Attributes({ run }: { run: Run }): ReactElement | null {
  const rows = attributeRows(run);
  if (rows.length === 0) return null;
  return (
    <Table
      size="small"
      aria-label={common.attributes}
      sx={{ '& td, & th': { px: 0.5, borderColor: 'divider' } }}
    >
      <TableHead>
        <TableRow>
          <TableCell>{wording.attribute}</TableCell>
          <TableCell align="right">{wording.atTheStart}</TableCell>
          <TableCell align="right">{wording.atTheEnd}</TableCell>
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
