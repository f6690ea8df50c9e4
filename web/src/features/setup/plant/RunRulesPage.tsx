/** Rules by which the recorder finds runs. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import {
  Choice,
  DataTable,
  FormActions,
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
import { TagChoice } from '../../../entities/TagChoice';
import { loggersQuery } from '../../../entities/loggers';
import {
  runRulesQuery,
  type RunRule,
  type RunRuleIn,
  saveRunRule,
  removeRunRule,
} from '../../../entities/runs';

const ORIGINS = [
  { value: 'change', label: 'a tag has another value, such as a lot number' },
  { value: 'tag', label: 'a tag is on' },
  { value: 'logger', label: 'a logger is wanted' },
] as const;
const MOST_ATTRIBUTES = 20;

const COLUMNS: Column<RunRule>[] = [
  { name: 'Name', of: (row) => row.name, width: '30%' },
  {
    name: 'A run lasts while',
    of: (row) => (row.origin === 'change' ? 'its tag keeps its value' : originLabel(row.origin)),
  },
  { name: 'Attributes', of: (row) => row.attributes.length, right: true },
  { name: 'State', of: (row) => (row.enabled ? 'watched' : 'switched off') },
];

function originLabel(origin: string): string {
  return ORIGINS.find((one) => one.value === origin)?.label ?? origin;
}

export function RunRulesPage(): ReactElement {
  const { data: rules = [], isSuccess } = useQuery(runRulesQuery);
  const { open, show, put } = useOpen();
  const chosen = rules.find((one) => one.uid === open);
  return (
    <Page
      title="Runs"
      note="How the recorder finds runs: named stretches of time, found again under Runs."
      actions={
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
          Add a rule
        </Button>
      }
      panel={
        open === 'new' || chosen !== undefined ? (
          <RulePanel key={open} rule={chosen ?? null} onClose={() => show(null)} onMade={put} />
        ) : null
      }
    >
      <DataTable
        label="Rules of runs"
        columns={COLUMNS}
        rows={rules}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={isSuccess ? 'There is no rule yet: the recorder finds no runs.' : ''}
      />
    </Page>
  );
}

interface RulePanelProps {
  rule: RunRule | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

function RulePanel({ rule, onClose, onMade }: RulePanelProps): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const draft = useDraft<RunRule, RunRuleIn>(rule, first);
  const { form, set, base } = draft;
  const saving = useSave(
    (form: RunRuleIn) => saveRunRule(base, form),
    ['name', 'tag', 'logger', 'attributes'],
    (made) => onMade(made.uid),
    draft.saved,
  );
  const removing = useSave(removeRunRule, [], onClose);
  const put = (i: number, uid: string | null): void =>
    set({
      attributes: [
        ...form.attributes.slice(0, i),
        ...(uid === null ? [] : [uid]),
        ...form.attributes.slice(i + 1),
      ],
    });
  return (
    <Panel title={rule?.name ?? 'A new rule'} onClose={onClose} onSubmit={() => saving.run(form)}>
      <TextLine
        label="Name; the value is put behind it"
        value={form.name}
        placeholder="Line 5 lot"
        onChange={(name) => set({ name })}
        problem={saving.problem('name')}
      />
      <Choice
        label="A run begins when"
        value={form.origin}
        options={ORIGINS}
        onChange={(origin) => set({ origin: origin as RunRuleIn['origin'] })}
      />
      {form.origin === 'logger' ? (
        <Choice
          label="Logger"
          value={form.logger ?? ''}
          options={loggers.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={(logger) => set({ logger })}
          problem={saving.problem('logger')}
        />
      ) : (
        <TagChoice
          label="Tag"
          value={form.tag ?? null}
          none="choose one"
          onChange={(tag) => set({ tag })}
          problem={saving.problem('tag')}
        />
      )}
      {[...form.attributes, ''].slice(0, MOST_ATTRIBUTES).map((uid, i) => (
        <TagChoice
          key={`${uid} ${i}`}
          label={i === 0 ? 'Attributes kept at its start and end' : 'and'}
          value={uid === '' ? null : uid}
          none={uid === '' ? 'one more tag' : ''}
          onChange={(next) => put(i, next)}
        />
      ))}
      <Switched label="Watched" value={form.enabled} onChange={(enabled) => set({ enabled })} />
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && rule !== null && <Told kind="good">Saved. It is at work within 2 s.</Told>}
      <FormActions save={rule === null ? 'Add' : 'Save'} busy={saving.busy}>
        {rule !== null && (
          <Removal
            what={rule.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(rule)}
          >
            The rule goes: no more runs are found by it. The runs that it found stay.
          </Removal>
        )}
      </FormActions>
    </Panel>
  );
}

function first(rule: RunRule | null): RunRuleIn {
  if (rule === null) {
    return { name: '', origin: 'change', tag: null, logger: null, attributes: [], enabled: true };
  }
  const { name, origin, tag, logger, attributes, enabled } = rule;
  return { name, origin, tag: tag ?? null, logger: logger ?? null, attributes, enabled };
}
