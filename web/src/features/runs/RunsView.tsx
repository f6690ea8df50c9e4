/** The list of runs, and one of them beside it. */
import { Box, Button, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { isoText, momentText, SECOND } from '../../domain/time';
import {
  Choice,
  DataTable,
  Details,
  FormActions,
  Panel,
  Removal,
  TextLine,
  Told,
  type Column,
} from '../../ui';
import { attributeRows, attributeText, runLength, trendLink } from './texts';
import type { Run } from '../../entities/runs';

const ORIGINS = {
  logger: 'a logger',
  tag: 'a tag that is on',
  change: 'a change of value',
  person: 'a person',
} as const;

interface RunsViewProps {
  runs: readonly Run[];
  known: boolean;
  rules: readonly { uid: string; name: string }[];
  zone: string;
  nowUs: number;
  search: string;
  rule: string;
  open: string | null;
  problem: string | null;
  onSearch: (text: string) => void;
  onRule: (uid: string) => void;
  onOpen: (uid: string | null) => void;
  /** `onDone`, when the server has begun it: until then what was typed stays. Null: the person may not. */
  onBegin: ((name: string, onDone: () => void) => void) | null;
  onEnd: (run: Run) => void;
  onRename: (run: Run, name: string) => void;
  onRemove: (run: Run) => void;
  onMore: (() => void) | null;
  /** All of history is shown, not a window of it. */
  isAll: boolean;
  onAll: () => void;
}

export function RunsView(props: RunsViewProps): ReactElement {
  const { runs, known, rules, zone, nowUs, search, rule, open, problem } = props;
  const chosen = runs.find((run) => run.uid === open);
  const columns: Column<Run>[] = [
    { name: 'Run', of: (run) => run.name, value: (run) => run.name, width: '20%' },
    {
      name: 'Began',
      of: (run) => oneLine(momentText(Number(run.start_us), zone)),
      value: (run) => isoText(Number(run.start_us)),
    },
    {
      name: 'Ended',
      value: (run) => (run.end_us === null ? null : isoText(Number(run.end_us))),
      of: (run) =>
        run.end_us === null ? (
          'lasts'
        ) : (
          <>
            {oneLine(momentText(Number(run.end_us), zone))}
            {run.cut && (
              <Box sx={{ typography: 'caption', color: 'text.secondary' }}>cut off with the recorder</Box>
            )}
          </>
        ),
    },
    {
      name: 'Took',
      of: (run) => oneLine(runLength(run, nowUs)),
      // Seconds: a program reads them.
      value: (run) => ((run.end_us === null ? nowUs : Number(run.end_us)) - Number(run.start_us)) / SECOND,
      right: true,
    },
    {
      name: 'Attributes at the start',
      of: (run) => run.start_attributes.map(attributeText).join(', '),
      value: (run) => run.start_attributes.map(attributeText).join(', '),
    },
    { name: 'Found by', of: foundBy, value: foundBy },
  ];
  const filtered = search !== '' || rule !== '';
  return (
    <Box sx={{ display: 'flex', flexDirection: { xs: 'column', md: 'row' }, height: { md: '100%' } }}>
      <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
          <Typography component="h1" variant="h1">
            Runs
          </Typography>
          <Box sx={{ width: 220 }}>
            <TextLine label="Find in names and attributes" value={search} onChange={props.onSearch} />
          </Box>
          <Box sx={{ width: 200 }}>
            <Choice
              label="Found by"
              value={rule}
              options={[
                { value: '', label: 'any rule or person' },
                ...rules.map((one) => ({ value: one.uid, label: one.name })),
              ]}
              onChange={props.onRule}
            />
          </Box>
          <Box sx={{ flex: 1 }} />
          {props.onBegin !== null && <Begin onBegin={props.onBegin} />}
        </Box>
        {problem !== null && (
          <Box sx={{ px: 2 }}>
            <Told kind="error">{problem}</Told>
          </Box>
        )}
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', px: 2, pb: 2 }}>
          <DataTable
            label="Runs"
            keptAs="runs"
            isPartial={props.onMore !== null}
            columns={columns}
            rows={runs}
            keyOf={(run) => run.uid}
            selected={open}
            onSelect={(run) => props.onOpen(run.uid)}
            empty={
              !known
                ? ''
                : filtered
                  ? `No run${props.isAll ? '' : ' of this window'} matches.`
                  : props.isAll
                    ? 'There is no run yet. Rules under Set-up, Runs find them; or begin one here.'
                    : 'No run touches this window.'
            }
          />
          {known && runs.length === 0 && !props.isAll && (
            <Button size="small" onClick={props.onAll}>
              Show runs of all times
            </Button>
          )}
          {props.onMore !== null && (
            <Button size="small" onClick={props.onMore}>
              Older ones
            </Button>
          )}
        </Box>
      </Box>
      {chosen !== undefined && (
        <RunPanel key={chosen.uid} {...props} run={chosen} onClose={() => props.onOpen(null)} />
      )}
    </Box>
  );
}

function foundBy(run: Run): string {
  return run.rule === '' ? run.person : run.rule;
}

function oneLine(text: string): ReactElement {
  return (
    <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
      {text}
    </Box>
  );
}

/** A person begins a run; it lasts until it is ended. */
function Begin({ onBegin }: { onBegin: NonNullable<RunsViewProps['onBegin']> }): ReactElement {
  const [name, setName] = useState('');
  return (
    <Box
      component="form"
      sx={{ display: 'flex', alignItems: 'flex-end', gap: 1 }}
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() === '') return;
        onBegin(name, () => setName(''));
      }}
    >
      <Box sx={{ width: 170 }}>
        <TextLine label="A run of your own" value={name} placeholder="Trial 7" onChange={setName} />
      </Box>
      <Button size="small" type="submit" variant="outlined" disabled={name.trim() === ''}>
        Begin it now
      </Button>
    </Box>
  );
}

interface RunPanelProps extends Pick<RunsViewProps, 'zone' | 'nowUs' | 'onEnd' | 'onRename' | 'onRemove'> {
  run: Run;
  onClose: () => void;
}

function RunPanel({ run, zone, nowUs, onClose, onEnd, onRename, onRemove }: RunPanelProps): ReactElement {
  const [name, setName] = useState(run.name);
  const byPerson = run.origin === 'person';
  const rows = attributeRows(run);
  return (
    <Panel title={run.name} onClose={onClose} onSubmit={() => onRename(run, name)}>
      <Details
        rows={[
          ['Began', momentText(Number(run.start_us), zone)],
          ['Ended', run.end_us === null ? 'lasts' : momentText(Number(run.end_us), zone)],
          ['Took', runLength(run, nowUs)],
          [
            'Found by',
            `${ORIGINS[run.origin]}${run.rule === '' ? '' : `: ${run.rule}`}${byPerson ? ` (${run.person})` : ''}`,
          ],
        ]}
      />
      {run.cut && <Told>It was cut off: the recorder ended while it lasted.</Told>}
      {rows.length > 0 && (
        <Table
          size="small"
          aria-label="Attributes"
          sx={{ '& td, & th': { px: 0.5, borderColor: 'divider' } }}
        >
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
      )}
      <TextLine label="Name" value={name} onChange={setName} />
      <FormActions save="Rename" busy={false}>
        <Button size="small" component={Link} to={trendLink(run, nowUs)}>
          Trend
        </Button>
        {byPerson && run.end_us === null && (
          <Button size="small" variant="outlined" onClick={() => onEnd(run)}>
            End it now
          </Button>
        )}
        {byPerson && (
          <Removal what={run.name} onRemove={() => onRemove(run)}>
            The run goes, with its attributes. What was recorded while it lasted stays.
          </Removal>
        )}
      </FormActions>
    </Panel>
  );
}
