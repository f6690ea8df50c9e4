/** Many tags at once: recorded by one action, one attribute changed for all with before and after, or removed. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { parseNumber } from '../../../domain/numbers';
import { parseWritten } from '../../../domain/durations';
import { Choice, Panel, Told, Offered } from '../../../ui';
import { DURATION_PROBLEM, NUMBER_PROBLEM } from '../../../ui/fields/lines';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../../../ui/form';
import { ColourField } from '../../../ui/fields/ColourField';
import { TagRemoval } from './TagRemoval';
import { useAskAnew } from '../common/useSave';
import { loggersQuery, changeMembers } from '../../../entities/loggers';
import { changeTags } from '../../../entities/tags';

const ATTRIBUTES = [
  { value: 'unit', label: common.engineeringUnit },
  { value: 'description', label: common.description },
  { value: 'equipment', label: common.equipment },
  { value: 'range_low', label: common.rangeFrom },
  { value: 'range_high', label: common.rangeTo },
  { value: 'decimals', label: common.decimals },
  { value: 'scan_us', label: common.readEvery },
  { value: 'colour', label: wording.colourOfItsOwn },
];
const NUMBERS = ['range_low', 'range_high', 'decimals'];
const MOST_SHOWN = 8;
const MOST_PENS = 32;

export function TagBulkPanel({ uids, onClose }: { uids: string[]; onClose: () => void }): ReactElement {
  return (
    <Panel title={fill(wording.tagsChosen, { tags: tagsText(uids) })} onClose={onClose}>
      <Recording uids={uids} />
      {uids.length <= MOST_PENS && (
        <Box>
          <Button size="small" component={Link} to={`/trends?tags=${uids.join(',')}&last=PT10M`}>
            {wording.showThemAsATrend}
          </Button>
        </Box>
      )}
      <OneAttribute uids={uids} />
      <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1.5 }}>
        <TagRemoval key={uids.length} uids={uids} name={tagsText(uids)} onDone={onClose} />
      </Box>
    </Panel>
  );
}

function tagsText(uids: readonly string[]): string {
  return fill(wording.countedTags, { count: uids.length });
}

interface Chosen {
  logger: string;
}
const ChosenFields = fieldsOf<Chosen>();
const CHOSEN = shapes.shape({ logger: shapes.filled(common.chooseALogger) });

function Recording({ uids }: { uids: string[] }): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const recording = useSentForm<Chosen, unknown>({
    values: { logger: '' },
    shape: CHOSEN,
    send: ({ logger }) => changeMembers(logger, uids),
    onDone: useAskAnew(),
    stays: true,
  });
  const logger = useWatch({ control: recording.form.control, name: 'logger' });
  return (
    <InnerFields of={recording}>
      <ChosenFields.Choice
        name="logger"
        label={wording.recordThemBy}
        options={[
          { value: '', label: wording.chooseALogger },
          ...loggers.map((one) => ({ value: one.uid, label: `${one.name}: ${one.text}` })),
        ]}
        {...(loggers.length === 0 ? { hint: wording.thereIsNoLoggerYetAdd } : {})}
      />
      <Box>
        <Offered>
          {' '}
          <Button size="small" variant="contained" disabled={recording.busy} onClick={recording.send}>
            {fill(wording.recordTags, { tags: tagsText(uids) })}
          </Button>
        </Offered>
      </Box>
      {recording.done && (
        <Told kind="good">
          {loggers.find((one) => one.uid === logger)?.name} {wording.recordsThemWithin2S}
        </Told>
      )}
    </InnerFields>
  );
}

function OneAttribute({ uids }: { uids: string[] }): ReactElement {
  const [attribute, setAttribute] = useState('unit');
  return (
    <Box sx={{ display: 'grid', gap: 1.5, borderTop: 1, borderColor: 'divider', pt: 1.5 }}>
      <Choice label={wording.changeForAll} value={attribute} options={ATTRIBUTES} onChange={setAttribute} />
      <NewValue key={attribute} uids={uids} attribute={attribute} />
    </Box>
  );
}

interface Wanted {
  value: string;
}
const WantedFields = fieldsOf<Wanted>();

/** What an attribute becomes, and what changes by that. */
function NewValue({ uids, attribute }: { uids: string[]; attribute: string }): ReactElement {
  const change = (value: string, dryRun: boolean) => {
    const attributes = { [attribute]: attributeValue(attribute, value) };
    return changeTags({ uids, attributes, revisions: {}, dry_run: dryRun });
  };
  const changing = useSentForm<Wanted, unknown>({
    values: { value: '' },
    shape: shapes.shape({ value: shapes.text((value) => problemOf(attribute, value)) }),
    send: ({ value }) => change(value, false),
    onDone: useAskAnew(),
    stays: true,
  });
  const value = useWatch({ control: changing.form.control, name: 'value' });
  const preview = useQuery({
    queryKey: ['setup-bulk', uids, attribute, value],
    queryFn: () => change(value, true),
    enabled: value !== '' && problemOf(attribute, value) === null,
    retry: false,
  });
  // Nothing is changed that was not looked at.
  const isSeen = preview.data !== undefined && preview.data.tags > 0;
  const send = (): void => (isSeen ? changing.send() : undefined);
  return (
    <InnerFields of={{ ...changing, send }}>
      {attribute === 'colour' ? (
        <WantedFields.Part<string> name="value">
          {(bound) => <ColourField label={common.to} none={wording.noneChosen} {...bound} />}
        </WantedFields.Part>
      ) : (
        <WantedFields.Text name="value" label={common.to} />
      )}
      {preview.data !== undefined && value !== '' && (
        <Box sx={{ typography: 'caption' }}>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {fill(wording.tagsOfCountTagsChange, { tags: preview.data.tags, count: uids.length })}
          </Typography>
          {preview.data.changes.slice(0, MOST_SHOWN).map((one) => (
            <div key={one.name}>
              {one.name}: <s>{String(one.before)}</s> → {String(one.after)}
            </div>
          ))}
          {preview.data.tags > MOST_SHOWN && (
            <div>{fill(common.restMoreFollow, { rest: preview.data.tags - MOST_SHOWN })}</div>
          )}
        </Box>
      )}
      {preview.error !== null && <Told kind="error">{errorText(preview.error)}</Told>}
      {changing.done && <Told kind="good">{wording.changedLabel}</Told>}
      <Box>
        <Offered>
          {' '}
          <Button size="small" variant="outlined" disabled={changing.busy || !isSeen} onClick={send}>
            {fill(wording.changeTagsTags, { tags: preview.data?.tags ?? '' })}
          </Button>
        </Offered>
      </Box>
    </InnerFields>
  );
}

function problemOf(attribute: string, value: string): string | null {
  if (attributeValue(attribute, value) !== null) return null;
  return attribute === 'scan_us' ? DURATION_PROBLEM : NUMBER_PROBLEM;
}

function attributeValue(attribute: string, value: string): string | number | null {
  if (attribute === 'scan_us') return parseWritten(value);
  if (!NUMBERS.includes(attribute)) return value;
  return parseNumber(value);
}
