/** Reports of the sheet that is shown: set up here, made when a shift, a day or a run is over, and kept. */
import { Box, Link, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { momentText } from '../../../domain/time';
import { Choice, FormActions, Panel, Removal, TextLine, Told } from '../../../ui';
import type { Kind } from './lanes';
import { percentText, reportWords } from './reports';
import type { Line, Norm } from './state';
import {
  issuesQuery,
  reportsQuery,
  type Issue,
  type Report,
  type ReportIn,
  addReport,
  removeReport,
  makeReports,
} from '../../../entities/reports';
import { runRulesQuery } from '../../../entities/runs';
import { served } from '../../../platform/configuration';

const FORMS = ['html', 'pdf', 'csv', 'xlsx'] as const;
const EVERY = [
  { value: 'shift', label: 'each shift' },
  { value: 'day', label: 'each day' },
  { value: 'run', label: 'each run' },
] as const;

interface ReportsPanelProps {
  kind: Kind;
  lines: readonly Line[];
  norm: Norm;
  zone: string;
  onClose: () => void;
}

export function ReportsPanel({ kind, lines, norm, zone, onClose }: ReportsPanelProps): ReactElement {
  const { data: reports = [] } = useQuery(reportsQuery);
  const { data: rules = [] } = useQuery(runRulesQuery);
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [every, setEvery] = useState<string>('shift');
  const [rule, setRule] = useState('');
  const saving = useMutation({
    mutationFn: async (work: () => Promise<unknown>) => {
      await work();
      // The first one may be due at once.
      return makeReports();
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['reports'] }),
  });
  const add = (): void =>
    saving.mutate(async () => {
      const chosen = rule === '' ? (rules[0]?.uid ?? null) : rule;
      const body: ReportIn = {
        name,
        kind: kind.name,
        lines: [...lines],
        norm,
        enabled: true,
        every: every as ReportIn['every'],
        rule: every === 'run' ? chosen : null,
      };
      return addReport(body);
    });
  const remove = (uid: string): void => saving.mutate(() => removeReport(uid));
  return (
    <Panel title="Reports" width={300} onClose={onClose} onSubmit={add}>
      <Typography variant="caption">
        The figures shown here, of {kind.name}, made when the time is over and kept.
      </Typography>
      <TextLine label="Name of the report" value={name} onChange={setName} placeholder="Dryers by shift" />
      <Choice label="Made for" value={every} options={EVERY} onChange={setEvery} />
      {every === 'run' && (
        <Choice
          label="Runs found by"
          value={rule === '' ? (rules[0]?.uid ?? '') : rule}
          options={rules.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={setRule}
        />
      )}
      {saving.error !== null && <Told kind="error">{errorText(saving.error)}</Told>}
      <FormActions save="Make this report" busy={saving.isPending} disabled={name.trim() === ''} />
      <SetUp reports={reports} onRemove={remove} />
      <Made zone={zone} />
    </Panel>
  );
}

function SetUp({
  reports,
  onRemove,
}: {
  reports: readonly Report[];
  onRemove: (uid: string) => void;
}): ReactElement | null {
  if (reports.length === 0) return null;
  return (
    <Box component="ul" aria-label="Reports set up" sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {reports.map((one) => (
        <Box component="li" key={one.uid} sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
          <Typography variant="body2">
            {one.name} · {reportWords(one)}
          </Typography>
          {one.problem !== '' && <Told kind="error">{one.problem}</Told>}
          <Removal what={one.name} onRemove={() => onRemove(one.uid)}>
            {one.name} is made no more. The reports that were made of it stay.
          </Removal>
        </Box>
      ))}
    </Box>
  );
}

function Made({ zone }: { zone: string }): ReactElement {
  const { data: issues = [], isSuccess } = useQuery(issuesQuery);
  return (
    <Box>
      <Typography component="h3" variant="h3">
        Made
      </Typography>
      {isSuccess && issues.length === 0 && <Told>None yet.</Told>}
      <Box component="ul" aria-label="Reports made" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {issues.map((one) => (
          <MadeOne key={one.uid} issue={one} zone={zone} />
        ))}
      </Box>
    </Box>
  );
}

function MadeOne({ issue, zone }: { issue: Issue; zone: string }): ReactElement {
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
      <Typography variant="body2">
        {issue.name}: {issue.period}
      </Typography>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {percentText(issue.covered)} recorded, {percentText(issue.good)} Good
        {issue.late ? ` · made late, ${momentText(Number(issue.created_us), zone)}` : ''}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        {FORMS.map((form) => (
          <Link
            key={form}
            href={served(`/api/reports/made/${issue.uid}.${form}`)}
            target={form === 'html' ? '_blank' : undefined}
            rel="noopener"
            aria-label={`${issue.name}, ${issue.period}, as ${form.toUpperCase()}`}
            sx={{ typography: 'caption' }}
          >
            {form.toUpperCase()}
          </Link>
        ))}
      </Box>
    </Box>
  );
}
