/** One rule by which the recorder finds runs. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { Removal, Told } from '../../../ui';
import { fieldsOf, shapes, type Bound } from '../../../ui/form';
import { copied, Duplicate } from '../common/Duplicate';
import { StoredPanel } from '../common/StoredForm';
import { removedOf, useRemoval } from '../common/useRemoval';
import { useStoredForm } from '../common/useStoredForm';
import { TagChoice } from '../../../entities/TagChoice';
import { loggersQuery } from '../../../entities/loggers';
import { type RunRule, type RunRuleIn, saveRunRule, removeRunRule } from '../../../entities/runs';
import { ORIGINS } from './runOrigins';

const MOST_ATTRIBUTES = 20;

interface RulePanelProps {
  rule: RunRule | null;
  /** A new one begins as a copy of this one. */
  like: RunRule | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

const Fields = fieldsOf<RunRuleIn>();
const SHAPE = shapes.shape({});

export function RulePanel({ rule, like, onClose, onMade }: RulePanelProps): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const stored = useStoredForm({
    stored: rule,
    valuesOf: (version) => copied(valuesOf(version ?? like), version === null && like !== null),
    shape: SHAPE,
    save: (values: RunRuleIn, base) => saveRunRule(base, values),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
  });
  const removing = useRemoval(removeRunRule, removedOf(rule), onClose);
  const origin = useWatch({ control: stored.form.control, name: 'origin' });
  return (
    <StoredPanel
      title={rule?.name ?? wording.aNewRule}
      onClose={onClose}
      stored={stored}
      save={rule === null ? common.add : common.save}
      said={rule === null ? null : common.savedItTakesEffectWithin2}
      actions={
        rule !== null && (
          <>
            <Duplicate uid={rule.uid} />
            <Removal
              what={rule.name}
              busy={removing.busy}
              problem={removing.general}
              onRemove={() => removing.run(rule)}
            >
              {wording.theRuleGoesNoMoreRuns}
            </Removal>
          </>
        )
      }
    >
      <Fields.Text name="name" label={wording.nameTheValueIsPutBehind} placeholder={wording.line5Lot} />
      <Fields.Choice name="origin" label={wording.aRunBeginsWhen} options={ORIGINS} />
      {origin === 'logger' ? (
        <Fields.Choice
          name="logger"
          label={common.logger}
          options={loggers.map((one) => ({ value: one.uid, label: one.name }))}
        />
      ) : (
        <Fields.Part<string | null> name="tag">
          {(tag) => <TagChoice label={common.tag} none={common.chooseOne} {...tag} />}
        </Fields.Part>
      )}
      <Fields.Part<string[]> name="attributes">{(bound) => <Attributes {...bound} />}</Fields.Part>
      <Fields.Switch name="enabled" label={wording.watched} />
    </StoredPanel>
  );
}

/** Tags whose values a run keeps; one more can always be chosen. */
function Attributes({ value, onChange, problem }: Bound<string[]>): ReactElement {
  const put = (i: number, uid: string | null): void =>
    onChange([...value.slice(0, i), ...(uid === null ? [] : [uid]), ...value.slice(i + 1)]);
  return (
    <>
      {[...value, ''].slice(0, MOST_ATTRIBUTES).map((uid, i) => (
        <TagChoice
          key={`${uid} ${i}`}
          label={i === 0 ? wording.attributesKeptAtItsStartAnd : wording.and}
          value={uid === '' ? null : uid}
          none={uid === '' ? wording.oneMoreTag : ''}
          onChange={(next) => put(i, next)}
        />
      ))}
      {problem !== undefined && <Told kind="error">{problem}</Told>}
    </>
  );
}

function valuesOf(rule: RunRule | null): RunRuleIn {
  if (rule === null) {
    return { name: '', origin: 'change', tag: null, logger: null, attributes: [], enabled: true };
  }
  const { name, origin, tag, logger, attributes, enabled } = rule;
  return { name, origin, tag: tag ?? null, logger: logger ?? null, attributes, enabled };
}
