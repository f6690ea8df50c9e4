/** One logger: its form, its members, a rehearsal of its rule, its end. */
import { Box, Button } from '@mui/material';
import { useEffect, type ReactElement } from 'react';
import {
  Choice,
  DurationLine,
  FormActions,
  Pairs,
  Panel,
  Removal,
  Switched,
  TextLine,
  Told,
} from '../../../ui';
import { Elsewhere } from '../tags/Elsewhere';
import { Members } from './Members';
import { loggerBody, loggerForm, type LoggerForm, type Mode } from './loggerForm';
import type { Rehearsing } from './Rehearse';
import { RULE_FIELDS, RuleFields } from './RuleFields';
import { RecordNow, SampleFields, TriggerFields } from './TriggerFields';
import { useDraft } from '../common/useDraft';
import { useSave } from '../common/useSave';
import { WhenFields } from './WhenFields';
import { TagChoice } from '../../../entities/TagChoice';
import type { Archive } from '../../../entities/archives';
import type { Logger, Rule } from '../../../entities/loggers';
import { saveLogger, removeLogger } from '../../../entities/loggers';

interface LoggerPanelProps {
  logger: Logger | null;
  archives: readonly Archive[];
  /** A rule that a rehearsal has brought. */
  taken: Rule | null;
  onClose: () => void;
  onMade: (uid: string) => void;
  onRehearse: (rehearsing: Rehearsing) => void;
}

const MODES = [
  { value: 'on_change', label: 'on change' },
  { value: 'periodic', label: 'by the clock' },
  { value: 'on_trigger', label: 'records at a trigger' },
  { value: 'around', label: 'in full detail around a trigger' },
];

const OWN_FIELDS = [
  ...['name', 'interval_us', 'phase_us', 'late_us', 'keeps', 'number_tag', 'reset'],
  ...['schedule', 'before_us', 'after_us'],
];

const KEEPS = [
  { value: 'value', label: 'the value at the tick' },
  { value: 'mean', label: 'the mean since the last tick' },
  { value: 'low', label: 'the lowest since the last tick' },
  { value: 'high', label: 'the highest since the last tick' },
];

export function LoggerPanel(props: LoggerPanelProps): ReactElement {
  const { logger, archives, taken, onClose, onMade, onRehearse } = props;
  const draft = useDraft<Logger, LoggerForm>(logger, (stored) => loggerForm(stored, archives));
  const { form, base, set: put } = draft;
  const set = (name: keyof LoggerForm) => (value: unknown) => put({ [name]: value });
  const rule = form.rule;
  useEffect(() => {
    // A rule taken over from a rehearsal replaces the one in the form; saving stays a step of its own.
    if (taken !== null) put({ mode: 'on_change', rule: taken });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each rule that is brought
  }, [taken]);
  const saving = useSave(
    (form: LoggerForm) => save(base, form),
    [...RULE_FIELDS, ...OWN_FIELDS],
    (made) => onMade(made.uid),
    draft.saved,
  );
  const removing = useSave(removeLogger, [], onClose);
  return (
    <Panel
      title={logger === null ? 'A new logger' : logger.name}
      onClose={onClose}
      onSubmit={() => saving.run(form)}
    >
      <TextLine label="Name" value={form.name} onChange={set('name')} problem={saving.problem('name')} />
      <Pairs>
        <Choice
          label="Records into"
          value={form.archive}
          options={archives.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={set('archive')}
        />
        <Choice label="When" value={form.mode} options={MODES} onChange={(mode) => put(inMode(form, mode))} />
      </Pairs>
      {(form.mode === 'on_trigger' || form.mode === 'around') && (
        <TriggerFields
          around={form.mode === 'around'}
          trigger={form.trigger}
          onChange={set('trigger')}
          problem={saving.problem}
        />
      )}
      {form.mode === 'around' && <AroundFields form={form} set={set} problem={saving.problem} />}
      {form.mode === 'periodic' && <ClockFields form={form} set={set} problem={saving.problem} />}
      {form.mode === 'on_change' && (
        <>
          <RuleFields
            key={String(taken !== null) + rule.kind}
            rule={rule}
            onChange={set('rule')}
            problem={saving.problem}
          />
          <Box>
            <Button
              size="small"
              variant="outlined"
              onClick={() => onRehearse({ rule, tags: logger?.tags ?? [] })}
            >
              Rehearse this rule …
            </Button>
          </Box>
        </>
      )}
      <TagChoice
        label="Held off while"
        value={form.inhibit_tag ?? null}
        none="no tag is on"
        onChange={set('inhibit_tag')}
      />
      <SampleFields sample={form.sample_on ?? null} onChange={set('sample_on')} />
      <WhenFields
        when={form.when}
        clock={form.mode === 'periodic'}
        onChange={set('when')}
        problem={saving.problem}
      />
      <Switched label="Wanted: it records" value={form.wanted} onChange={set('wanted')} />
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      <Elsewhere clashes={draft.clashes} refused={saving.refused} onTake={draft.takeTheirs} />
      {saving.done && logger !== null && <Told kind="good">Saved. It is at work within 2 s.</Told>}
      <FormActions save={logger === null ? 'Add' : 'Save'} busy={saving.busy}>
        {logger !== null && (
          <>
            <RecordNow
              uid={logger.uid}
              word={logger.mode === 'on_trigger' ? 'Record now' : 'One sample now'}
              disabled={logger.tags.length === 0}
            />
            <Removal
              what={logger.name}
              busy={removing.busy}
              problem={removing.general}
              onRemove={() => removing.run(logger)}
            >
              The logger goes; {logger.tags.length} tags are no longer recorded by it. What it recorded stays.
            </Removal>
          </>
        )}
      </FormActions>
      {logger !== null && <Members logger={logger} />}
      {logger === null && <Told>Tags join it when it is there: choose them under Tags.</Told>}
    </Panel>
  );
}

/** A logger that was of another mode begins with an interval; without one it records on demand only. */
function inMode(form: LoggerForm, wanted: string): Partial<LoggerForm> {
  const mode = wanted as Mode;
  return mode === 'periodic' && form.interval_us === 0 ? { mode, interval_us: 1_000_000 } : { mode };
}

interface ClockFieldsProps {
  form: LoggerForm;
  set: (name: keyof LoggerForm) => (value: unknown) => void;
  problem: (field: string) => string | undefined;
}

/** How much a logger around a trigger records. */
function AroundFields({ form, set, problem }: ClockFieldsProps): ReactElement {
  return (
    <Pairs>
      <DurationLine
        label="Time before it"
        none="nothing"
        value={form.before_us}
        onChange={set('before_us')}
        problem={problem('before_us')}
      />
      <DurationLine
        label="Time after it"
        none="nothing"
        value={form.after_us}
        onChange={set('after_us')}
        problem={problem('after_us')}
      />
    </Pairs>
  );
}

/** When a logger by the clock records, and what it keeps. */
function ClockFields({ form, set, problem }: ClockFieldsProps): ReactElement {
  return (
    <Pairs>
      <DurationLine
        label="Every"
        none="on demand only"
        value={form.interval_us}
        onChange={set('interval_us')}
        problem={problem('interval_us')}
      />
      <Choice
        label="Keeps"
        value={form.keeps}
        options={KEEPS}
        onChange={set('keeps')}
        problem={problem('keeps')}
      />
      <DurationLine
        label="Later than the clock by"
        none="nothing"
        value={form.phase_us}
        onChange={set('phase_us')}
        problem={problem('phase_us')}
      />
      <DurationLine
        label="Missed ticks are a gap after"
        none="3 intervals or 5 s"
        value={form.late_us}
        onChange={set('late_us')}
        problem={problem('late_us')}
      />
    </Pairs>
  );
}

function save(logger: Logger | null, form: LoggerForm): Promise<Logger> {
  return saveLogger(logger?.uid ?? null, loggerBody(form, logger?.revision));
}
