/** Many tags at once: recorded by one action, one attribute changed for all with before and after, or removed. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import { Link } from 'react-router';
import { errorText } from '../../../platform/errors';
import { parseNumber } from '../../../domain/numbers';
import { parseWritten } from '../../../domain/durations';
import { Choice, Panel, Told } from '../../../ui';
import { DURATION_PROBLEM, NUMBER_PROBLEM } from '../../../ui/fields/lines';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../../../ui/form';
import { ColourField } from '../../../ui/fields/ColourField';
import { TagRemoval } from './TagRemoval';
import { useAskAnew } from '../common/useSave';
import { loggersQuery, changeMembers } from '../../../entities/loggers';
import { changeTags } from '../../../entities/tags';

const ATTRIBUTES = [
  { value: 'unit', label: 'Engineering unit' },
  { value: 'description', label: 'Description' },
  { value: 'equipment', label: 'Equipment' },
  { value: 'range_low', label: 'Range from' },
  { value: 'range_high', label: 'Range to' },
  { value: 'decimals', label: 'Decimals' },
  { value: 'scan_us', label: 'Read every' },
  { value: 'colour', label: 'Colour of its own' },
];
const NUMBERS = ['range_low', 'range_high', 'decimals'];
const MOST_SHOWN = 8;
const MOST_PENS = 32;

export function TagBulkPanel({ uids, onClose }: { uids: string[]; onClose: () => void }): ReactElement {
  return (
    <Panel title={`${tagsText(uids)} chosen`} onClose={onClose}>
      <Recording uids={uids} />
      {uids.length <= MOST_PENS && (
        <Box>
          <Button size="small" component={Link} to={`/trends?tags=${uids.join(',')}&last=PT10M`}>
            Show them as a trend
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
  return uids.length === 1 ? '1 tag' : `${uids.length} tags`;
}

interface Chosen {
  logger: string;
}
const ChosenFields = fieldsOf<Chosen>();
const CHOSEN = shapes.shape({ logger: shapes.filled('Choose a logger.') });

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
        label="Record them by"
        options={[
          { value: '', label: 'choose a logger' },
          ...loggers.map((one) => ({ value: one.uid, label: `${one.name}: ${one.text}` })),
        ]}
        {...(loggers.length === 0 ? { hint: 'There is no logger yet: add one under Loggers.' } : {})}
      />
      <Box>
        <Button size="small" variant="contained" disabled={recording.busy} onClick={recording.send}>
          Record {tagsText(uids)}
        </Button>
      </Box>
      {recording.done && (
        <Told kind="good">{loggers.find((one) => one.uid === logger)?.name} records them within 2 s.</Told>
      )}
    </InnerFields>
  );
}

function OneAttribute({ uids }: { uids: string[] }): ReactElement {
  const [attribute, setAttribute] = useState('unit');
  return (
    <Box sx={{ display: 'grid', gap: 1.5, borderTop: 1, borderColor: 'divider', pt: 1.5 }}>
      <Choice label="Change for all" value={attribute} options={ATTRIBUTES} onChange={setAttribute} />
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
          {(bound) => <ColourField label="to" none="None chosen" {...bound} />}
        </WantedFields.Part>
      ) : (
        <WantedFields.Text name="value" label="to" />
      )}
      {preview.data !== undefined && value !== '' && (
        <Box sx={{ typography: 'caption' }}>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {preview.data.tags} of {uids.length} tags change:
          </Typography>
          {preview.data.changes.slice(0, MOST_SHOWN).map((one) => (
            <div key={one.name}>
              {one.name}: <s>{String(one.before)}</s> → {String(one.after)}
            </div>
          ))}
          {preview.data.tags > MOST_SHOWN && <div>… and {preview.data.tags - MOST_SHOWN} more</div>}
        </Box>
      )}
      {preview.error !== null && <Told kind="error">{errorText(preview.error)}</Told>}
      {changing.done && <Told kind="good">Changed.</Told>}
      <Box>
        <Button size="small" variant="outlined" disabled={changing.busy || !isSeen} onClick={send}>
          Change {preview.data?.tags ?? ''} tags
        </Button>
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
