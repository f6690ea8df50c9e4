/** One logger: its form, its members, a rehearsal of its rule, its end. */
import { Box, Button } from '@mui/material';
import { useEffect, type ReactElement } from 'react';
import { useWatch, type Control } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { Choice, Pairs, Removal } from '../../../ui';
import { ApiError } from '../../../platform/errors';
import { fieldsOf, shapes, useProblems } from '../../../ui/form';
import { NewMembers } from './NewMembers';
import { Members } from './Members';
import {
  KEEPS,
  loggerBody,
  loggerForm,
  NEW_ARCHIVE,
  withoutTags,
  type LoggerForm,
  type Mode,
} from './loggerForm';
import type { Rehearsing, Tried } from './Rehearse';
import { RULE_PLACES, RULE_SHAPE, RulePart } from './RuleFields';
import { RecordNow, SampleFields, TriggerFields } from './TriggerFields';
import { copied, Duplicate } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { removedOf, useRemoval } from '../common/useRemoval';
import { useStoredForm } from '../common/useStoredForm';
import { WhenFields, type When } from './WhenFields';
import { TagChoice } from '../../../entities/TagChoice';
import { saveArchive, type Archive } from '../../../entities/archives';
import type { Logger } from '../../../entities/loggers';
import { saveLogger, removeLogger } from '../../../entities/loggers';

const FIRST_INTERVAL_US = 1_000_000;

interface LoggerPanelProps {
  logger: Logger | null;
  /** A new one begins as a copy of this one, but for its tags. */
  like: Logger | null;
  archives: readonly Archive[];
  /** A rule that a rehearsal has brought. */
  taken: Tried | null;
  onClose: () => void;
  onMade: (uid: string) => void;
  onRehearse: (rehearsing: Rehearsing) => void;
}

const MODES = [
  { value: 'on_change', label: common.onChange },
  { value: 'periodic', label: common.periodic },
  { value: 'on_trigger', label: wording.recordsAtATrigger },
  { value: 'around', label: wording.inFullDetailAroundATrigger },
];

const Fields = fieldsOf<LoggerForm>();
const { duration } = shapes;
const SHAPE = shapes.shape(
  {
    interval_us: duration,
    phase_us: duration,
    late_us: duration,
    before_us: duration,
    after_us: duration,
    rule: RULE_SHAPE,
    when: shapes.shape({
      spans: shapes.array(shapes.shape({ start_minute: shapes.clock, end_minute: shapes.clock })),
    }),
  },
  ({ archive, new_archive }: LoggerForm): Record<string, string> =>
    archive === NEW_ARCHIVE && new_archive.trim() === '' ? { new_archive: wording.giveTheArchiveAName } : {},
);
const PLACES = {
  ...RULE_PLACES,
  schedule: 'when.spans',
  number_tag: 'trigger.number_tag',
  reset: 'trigger.reset',
};

export function LoggerPanel(props: LoggerPanelProps): ReactElement {
  const { logger, like, archives, taken, onClose, onMade, onRehearse } = props;
  const stored = useStoredForm({
    stored: logger,
    valuesOf: (version) =>
      copied(loggerForm(version ?? withoutTags(like), archives), version === null && like !== null),
    shape: SHAPE,
    save: async (values: LoggerForm, base) => {
      const archive = await archiveOf(values);
      // What is refused after that has its archive already.
      if (archive !== values.archive) setArchive(archive);
      return saveLogger(base?.uid ?? null, loggerBody({ ...values, archive }, base?.revision));
    },
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
    also: PLACES,
  });
  const { setValue } = stored.form;
  function setArchive(uid: string): void {
    setValue('archive', uid, { shouldDirty: true });
  }
  useEffect(() => {
    // A rule taken over from a rehearsal replaces the one in the form; saving stays a step of its own.
    if (taken === null) return;
    const dirty = { shouldDirty: true };
    if (taken.kind === 'periodic') {
      setValue('mode', 'periodic', dirty);
      for (const name of ['interval_us', 'phase_us', 'keeps'] as const) setValue(name, taken[name], dirty);
    } else {
      setValue('mode', 'on_change', dirty);
      setValue('rule', taken, dirty);
    }
  }, [taken, setValue]);
  const removing = useRemoval(removeLogger, removedOf(logger), onClose);
  return (
    <StoredPanel
      title={logger === null ? wording.aNewLogger : logger.name}
      onClose={onClose}
      stored={stored}
      save={logger === null ? common.add : common.save}
      said={logger === null ? null : common.savedItTakesEffectWithin2}
      actions={
        logger !== null && (
          <>
            <RecordNow
              uid={logger.uid}
              word={logger.mode === 'on_trigger' ? wording.recordNow : wording.oneSampleNow}
              disabled={logger.tags.length === 0}
            />
            <Duplicate uid={logger.uid} />
            <Removal
              what={logger.name}
              busy={removing.busy}
              problem={removing.general}
              onRemove={() => removing.run(logger)}
            >
              {fill(wording.theLoggerGoesTagsTagsAre, { tags: logger.tags.length })}
            </Removal>
          </>
        )
      }
      below={logger !== null && <Members logger={logger} />}
    >
      <Fields.Text name="name" label={common.name} />
      <Pairs>
        <Fields.Choice
          name="archive"
          label={common.archive}
          options={[
            ...archives.map((one) => ({ value: one.uid, label: one.name })),
            { value: NEW_ARCHIVE, label: wording.aNewOne },
          ]}
        />
        <Fields.Part<Mode> name="mode">
          {({ value, onChange, problem }) => (
            <Choice
              label={common.when}
              value={value}
              options={MODES}
              problem={problem}
              onChange={(next) => {
                const mode = next as Mode;
                onChange(mode);
                // A logger that was of another mode begins with an interval; without one it records on demand only.
                if (mode === 'periodic' && stored.form.getValues('interval_us') === 0) {
                  setValue('interval_us', FIRST_INTERVAL_US, { shouldDirty: true });
                }
              }}
            />
          )}
        </Fields.Part>
      </Pairs>
      <NewArchive control={stored.form.control} />
      <ModeFields control={stored.form.control} tags={logger?.tags ?? []} onRehearse={onRehearse} />
      {logger === null && (
        <Fields.Part<string[]> name="tags">{(bound) => <NewMembers {...bound} />}</Fields.Part>
      )}
      <Fields.Part<string | null> name="inhibit_tag">
        {(tag) => <TagChoice label={wording.inhibitedWhile} none={wording.noTagIsOn} {...tag} />}
      </Fields.Part>
      <Fields.Part<LoggerForm['sample_on']> name="sample_on">
        {({ value, onChange }) => <SampleFields sample={value ?? null} onChange={onChange} />}
      </Fields.Part>
      <Schedule control={stored.form.control} />
      <Fields.Switch name="wanted" label={wording.enabled} />
    </StoredPanel>
  );
}

interface ModeFieldsProps {
  control: Control<LoggerForm>;
  tags: readonly string[];
  onRehearse: (rehearsing: Rehearsing) => void;
}

/** What a new archive is called; it keeps everything until it is set up otherwise. */
function NewArchive({ control }: Pick<ModeFieldsProps, 'control'>): ReactElement | null {
  const archive = useWatch({ control, name: 'archive' });
  if (archive !== NEW_ARCHIVE) return null;
  return <Fields.Text name="new_archive" label={wording.nameOfTheNewArchive} />;
}

/** The archive that it records into, made now where it is a new one. */
async function archiveOf({ archive, new_archive }: LoggerForm): Promise<string> {
  if (archive !== NEW_ARCHIVE) return archive;
  try {
    return (await saveArchive(null, { name: new_archive, thin: false, live_only: false, directory: '' })).uid;
  } catch (error) {
    throw error instanceof ApiError ? error.at('name', 'new_archive') : error;
  }
}

/** What its mode asks for. */
function ModeFields({ control, tags, onRehearse }: ModeFieldsProps): ReactElement | null {
  const mode = useWatch({ control, name: 'mode' });
  const problemAt = useProblems();
  if (mode === 'periodic') return <ClockFields {...{ control, tags, onRehearse }} />;
  if (mode === 'on_change') {
    return (
      <RulePart
        below={(rule) => (
          <Box>
            <Button size="small" variant="outlined" onClick={() => onRehearse({ rule, tags })}>
              {wording.rehearseThisRule}
            </Button>
          </Box>
        )}
      />
    );
  }
  return (
    <>
      <Fields.Part<LoggerForm['trigger']> name="trigger">
        {({ value, onChange }) => (
          <TriggerFields
            around={mode === 'around'}
            trigger={value}
            onChange={onChange}
            problem={(part) => problemAt(`trigger.${part}`)}
          />
        )}
      </Fields.Part>
      {mode === 'around' && <AroundFields />}
    </>
  );
}

/** When it records beside what a person wants. */
function Schedule({ control }: Pick<ModeFieldsProps, 'control'>): ReactElement {
  const isByClock = useWatch({ control, name: 'mode' }) === 'periodic';
  const problemAt = useProblems();
  return (
    <Fields.Part<When> name="when">
      {({ value, onChange }) => (
        <WhenFields
          when={value}
          clock={isByClock}
          onChange={onChange}
          problem={problemAt('when.spans') ?? problemAt('when.spans.root')}
        />
      )}
    </Fields.Part>
  );
}

/** How much a logger around a trigger records. */
function AroundFields(): ReactElement {
  return (
    <Pairs>
      <Fields.Duration name="before_us" label={wording.timeBeforeIt} none={common.nothing} />
      <Fields.Duration name="after_us" label={wording.timeAfterIt} none={common.nothing} />
    </Pairs>
  );
}

/** When a logger by the clock records, and what it keeps. */
function ClockFields({ control, tags, onRehearse }: ModeFieldsProps): ReactElement {
  const [interval_us, phase_us, keeps] = useWatch({ control, name: ['interval_us', 'phase_us', 'keeps'] });
  return (
    <>
      <Pairs>
        <Fields.Duration name="interval_us" label={common.every} none={wording.onDemandOnly} />
        <Fields.Choice name="keeps" label={wording.storedValue} options={KEEPS} />
        <Fields.Duration name="phase_us" label={wording.phaseOffset} none={common.nothing} />
        <Fields.Duration
          name="late_us"
          label={wording.missedSamplesAreAGapAfter}
          none={wording.n3IntervalsOr5S}
        />
      </Pairs>
      {interval_us !== 0 && (
        <Box>
          <Button
            size="small"
            variant="outlined"
            onClick={() => onRehearse({ rule: { kind: 'periodic', interval_us, phase_us, keeps }, tags })}
          >
            {wording.rehearseTheseSettings}
          </Button>
        </Box>
      )}
    </>
  );
}
