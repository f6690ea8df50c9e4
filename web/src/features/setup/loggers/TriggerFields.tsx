/** What makes a triggered logger take a record, and what the plant is told when it is safe. */
import { Button } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { type Tag } from '../../../platform/client';
import { errorText } from '../../../platform/errors';
import { Choice, Switched, Told, Offered } from '../../../ui';
import { TagChoice } from '../../../entities/TagChoice';
import type { LoggerIn, Trigger } from '../../../entities/loggers';
import { recordNow } from '../../../entities/loggers';
import { Needs } from '../../../entities/access/Needs';

export const FIRST_TRIGGER: Trigger = { tag: null, edge: 'rising', number_tag: null, reset: false };

const EDGES = [
  { value: 'rising', label: wording.becomesOnRisingEdge },
  { value: 'falling', label: wording.becomesOffFallingEdge },
  { value: 'either', label: wording.becomesOnOrOff },
  { value: 'change', label: wording.hasAnotherValue },
];

interface TriggerFieldsProps {
  /** Full detail is recorded, and no record taken. */
  around?: boolean;
  trigger: Trigger;
  onChange: (trigger: Trigger) => void;
  problem: (field: string) => string | undefined;
}

export function TriggerFields({
  around = false,
  trigger,
  onChange,
  problem,
}: TriggerFieldsProps): ReactElement {
  return (
    <>
      <TagChoice
        label={around ? wording.recordsAroundTheTriggerWhen : wording.recordsWhen}
        value={trigger.tag ?? null}
        none={wording.onlyWhenAPersonAsksFor}
        onChange={(tag, found) => onChange({ ...trigger, tag, edge: edgeFor(found, trigger.edge) })}
      />
      <Choice
        label={wording.thisTag}
        value={trigger.edge}
        options={EDGES}
        disabled={trigger.tag == null}
        onChange={(edge) => onChange({ ...trigger, edge: edge as Trigger['edge'] })}
      />
      {!around && (
        <>
          <TagChoice
            label={wording.whenTheRecordIsStoredWrite}
            value={trigger.number_tag ?? null}
            none={common.noTag}
            onChange={(number_tag) => onChange({ ...trigger, number_tag })}
            problem={problem('number_tag')}
          />
          <Switched
            label={wording.whenTheRecordIsStoredReset}
            value={trigger.reset}
            onChange={(reset) => onChange({ ...trigger, reset })}
          />
        </>
      )}
      {problem('reset') !== undefined && <Told kind="error">{problem('reset')}</Told>}
    </>
  );
}

type Sample = NonNullable<LoggerIn['sample_on']>;

interface SampleFieldsProps {
  sample: Sample | null;
  onChange: (sample: Sample | null) => void;
}

/** A tag whose edge has the logger take one sample, in any mode. */
export function SampleFields({ sample, onChange }: SampleFieldsProps): ReactElement {
  const edge = sample?.edge ?? 'rising';
  return (
    <>
      <TagChoice
        label={wording.sampleAtAnEdgeOf}
        value={sample?.tag ?? null}
        none={common.noTag}
        onChange={(tag, found) => onChange(tag === null ? null : { tag, edge: edgeFor(found, edge) })}
      />
      {sample !== null && (
        <Choice
          label={wording.edge}
          value={edge}
          options={EDGES}
          onChange={(wanted) => onChange({ ...sample, edge: wanted as Sample['edge'] })}
        />
      )}
    </>
  );
}

/** Only a contact becomes on or off: a number, such as that of a lot, begins with "has another value". */
function edgeFor(tag: Tag | null, edge: Trigger['edge']): Trigger['edge'] {
  if (tag === null) return edge;
  if (tag.value_type === 'boolean') return edge === 'change' ? 'rising' : edge;
  return 'change';
}

/** One sample or record of all tags now, in any mode. */
interface RecordNowProps {
  uid: string;
  word: string;
  /** It has no tags: there is nothing to record. */
  disabled: boolean;
}

/** Only to those who may. */
export function RecordNow(props: RecordNowProps): ReactElement {
  return (
    <Needs permission="control_loggers">
      <Offered>
        <RecordButton {...props} />
      </Offered>
    </Needs>
  );
}

function RecordButton({ uid, word, disabled }: RecordNowProps): ReactElement {
  const asking = useMutation({
    mutationFn: () => recordNow(uid),
  });
  return (
    <>
      <Button size="small" disabled={disabled || asking.isPending} onClick={() => asking.mutate()}>
        {word}
      </Button>
      {asking.isSuccess && <Told kind="good">{wording.theSampleWasTaken}</Told>}
      {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
    </>
  );
}
