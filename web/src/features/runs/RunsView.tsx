/** The list of runs, and one of them beside it. */
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/runs.json';
import { isoText, momentText, SECOND } from '../../domain/time';
import { Choice, DataTable, TextLine, Told, type Column } from '../../ui';
import { BeginRun, RunPanel } from './parts';
import { attributeText, runLength } from './texts';
import type { Run } from '../../entities/runs';

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
  /** Null: the person may not. */
  onBegin: ((name: string) => Promise<unknown>) | null;
  onEnd: (run: Run) => void;
  onRename: (run: Run, name: string) => Promise<unknown>;
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
    { name: wording.run, of: (run) => run.name, value: (run) => run.name, width: '20%' },
    {
      name: wording.start,
      of: (run) => oneLine(momentText(Number(run.start_us), zone)),
      value: (run) => isoText(Number(run.start_us)),
    },
    {
      name: wording.end,
      value: (run) => (run.end_us === null ? null : isoText(Number(run.end_us))),
      of: (run) =>
        run.end_us === null ? (
          'running'
        ) : (
          <>
            {oneLine(momentText(Number(run.end_us), zone))}
            {run.cut && (
              <Box sx={{ typography: 'caption', color: 'text.secondary' }}>
                {wording.endedWhenTheRecorderStopped}
              </Box>
            )}
          </>
        ),
    },
    {
      name: wording.duration,
      of: (run) => oneLine(runLength(run, nowUs)),
      // Seconds: a program reads them.
      value: (run) => ((run.end_us === null ? nowUs : Number(run.end_us)) - Number(run.start_us)) / SECOND,
      right: true,
    },
    {
      name: wording.attributesAtTheStart,
      of: (run) => run.start_attributes.map(attributeText).join(', '),
      value: (run) => run.start_attributes.map(attributeText).join(', '),
    },
    { name: wording.origin, of: foundBy, value: foundBy },
  ];
  const filtered = search !== '' || rule !== '';
  return (
    <Box sx={{ display: 'flex', flexDirection: { xs: 'column', md: 'row' }, height: { md: '100%' } }}>
      <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, px: 2, py: 1, flexWrap: 'wrap' }}>
          <Typography component="h1" variant="h1">
            {common.runs}
          </Typography>
          <Box sx={{ width: 220 }}>
            <TextLine label={wording.findInNamesAndAttributes} value={search} onChange={props.onSearch} />
          </Box>
          <Box sx={{ width: 200 }}>
            <Choice
              label={wording.origin}
              value={rule}
              options={[
                { value: '', label: wording.anyRuleOrPerson },
                ...rules.map((one) => ({ value: one.uid, label: one.name })),
              ]}
              onChange={props.onRule}
            />
          </Box>
          <Box sx={{ flex: 1 }} />
          {props.onBegin !== null && <BeginRun onBegin={props.onBegin} />}
        </Box>
        {problem !== null && (
          <Box sx={{ px: 2 }}>
            <Told kind="error">{problem}</Told>
          </Box>
        )}
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', px: 2, pb: 2 }}>
          <DataTable
            label={common.runs}
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
                  ? props.isAll
                    ? wording.noRunMatches
                    : wording.noRunOfThisWindowMatches
                  : props.isAll
                    ? wording.thereIsNoRunYetRules
                    : wording.noRunTouchesThisWindow
            }
          />
          {known && runs.length === 0 && !props.isAll && (
            <Button size="small" onClick={props.onAll}>
              {wording.showRunsOfAllTimes}
            </Button>
          )}
          {props.onMore !== null && (
            <Button size="small" onClick={props.onMore}>
              {common.olderOnes}
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
