/** Reports of the sheet that is shown: set up here, made when a shift, a day or a run is over, and kept. */
import { Box, Link, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { momentText } from '../../../domain/time';
import { Choice, FormActions, Panel, Removal, Told, Offered } from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import type { Kind } from './lanes';
import { percentText, reportWords } from './reports';
import { PastReports } from './PastReports';
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
import { Needs } from '../../../entities/access/Needs';

const FORMS = ['html', 'pdf', 'csv', 'xlsx'] as const;
const EVERY = [
  { value: 'shift', label: wording.eachShift },
  { value: 'day', label: wording.eachDay },
  { value: 'run', label: wording.eachRun },
] as const;

interface ReportsPanelProps {
  kind: Kind;
  lines: readonly Line[];
  norm: Norm;
  zone: string;
  onClose: () => void;
}

interface NewReport {
  name: string;
  every: ReportIn['every'];
  /** The first one, where none was chosen. */
  rule: string;
}
const Fields = fieldsOf<NewReport>();
const SHAPE = shapes.shape({ name: shapes.filled(wording.giveTheReportAName) });

export function ReportsPanel({ kind, lines, norm, zone, onClose }: ReportsPanelProps): ReactElement {
  const { data: reports = [] } = useQuery(reportsQuery);
  const { data: rules = [] } = useQuery(runRulesQuery);
  const queries = useQueryClient();
  const askAnew = (): Promise<void> => queries.invalidateQueries({ queryKey: ['reports'] });
  const removing = useMutation({ mutationFn: removeReport, onSuccess: askAnew });
  const firstRule = rules[0]?.uid ?? null;
  const adding = useSentForm<NewReport, unknown>({
    values: { name: '', every: 'shift', rule: '' },
    shape: SHAPE,
    send: async ({ name, every, rule }) => {
      await addReport({
        name,
        kind: kind.name,
        lines: [...lines],
        norm,
        enabled: true,
        every,
        rule: every !== 'run' ? null : rule === '' ? firstRule : rule,
      });
      // The first one may be due at once.
      return makeReports();
    },
    onDone: askAnew,
  });
  const every = useWatch({ control: adding.form.control, name: 'every' });
  return (
    <Needs permission="manage_reports">
      <FormFields of={adding}>
        <Panel title={wording.reports} width={300} onClose={onClose} onSubmit={adding.onSubmit}>
          <Typography variant="caption">
            {fill(wording.theFiguresShownHereOfName, { name: kind.name })}
          </Typography>
          <Fields.Text name="name" label={wording.nameOfTheReport} placeholder={wording.dryersByShift} />
          <Fields.Choice name="every" label={wording.madeFor} options={EVERY} />
          {every === 'run' && (
            <Fields.Part<string> name="rule">
              {({ value, onChange, problem }) => (
                <Choice
                  label={wording.runsFoundBy}
                  value={value === '' ? (firstRule ?? '') : value}
                  options={rules.map((one) => ({ value: one.uid, label: one.name }))}
                  onChange={onChange}
                  problem={problem}
                />
              )}
            </Fields.Part>
          )}
          {adding.general !== null && <Told kind="error">{adding.general}</Told>}
          <FormActions save={wording.addReport} busy={adding.busy} />
          {removing.error !== null && <Told kind="error">{errorText(removing.error)}</Told>}
          <SetUp reports={reports} zone={zone} onRemove={removing.mutate} onMade={askAnew} />
          <Made zone={zone} />
        </Panel>
      </FormFields>
    </Needs>
  );
}

interface SetUpProps {
  reports: readonly Report[];
  zone: string;
  onRemove: (uid: string) => void;
  onMade: () => Promise<void>;
}

function SetUp({ reports, zone, onRemove, onMade }: SetUpProps): ReactElement | null {
  if (reports.length === 0) return null;
  return (
    <Box component="ul" aria-label={wording.reportsSetUp} sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {reports.map((one) => (
        <Box component="li" key={one.uid} sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
          <Typography variant="body2">
            {one.name} · {reportWords(one)}
          </Typography>
          {one.problem !== '' && <Told kind="error">{one.problem}</Told>}
          <Offered>
            <PastReports report={one} zone={zone} onMade={onMade} />
          </Offered>
          <Removal what={one.name} onRemove={() => onRemove(one.uid)}>
            {fill(wording.noMoreReportsAreMadeOf, { name: one.name })}
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
        {wording.made}
      </Typography>
      {isSuccess && issues.length === 0 && <Told>{wording.noneYet}</Told>}
      <Box component="ul" aria-label={wording.reportsMade} sx={{ listStyle: 'none', m: 0, p: 0 }}>
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
        {fill(wording.percentRecordedPercent2GoodPart, {
          percent: percentText(issue.covered),
          percent2: percentText(issue.good),
          part: issue.late
            ? ` ${fill(wording.madeLateMoment, { moment: momentText(Number(issue.created_us), zone) })}`
            : '',
        })}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1.5 }}>
        {FORMS.map((form) => (
          <Link
            key={form}
            href={served(`/api/reports/made/${issue.uid}.${form}`)}
            target={form === 'html' ? '_blank' : undefined}
            rel="noopener"
            aria-label={fill(wording.namePeriodAsForm, {
              name: issue.name,
              period: issue.period,
              form: form.toUpperCase(),
            })}
            sx={{ typography: 'caption' }}
          >
            {form.toUpperCase()}
          </Link>
        ))}
      </Box>
    </Box>
  );
}
