/** Many tags at once: recorded by one action, one attribute changed for all with before and after, or removed. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { errorText } from '../../../platform/errors';
import { parseNumber } from '../../../domain/numbers';
import { parseWritten } from '../../../domain/durations';
import { Choice, Panel, TextLine, Told } from '../../../ui';
import { TagRemoval } from './TagRemoval';
import { useSave } from '../common/useSave';
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
    <Panel title={`${uids.length} tags chosen`} onClose={onClose}>
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
        <TagRemoval
          key={uids.length}
          uids={uids}
          name={uids.length === 1 ? '1 tag' : `${uids.length} tags`}
          onDone={onClose}
        />
      </Box>
    </Panel>
  );
}

function Recording({ uids }: { uids: string[] }): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const [logger, setLogger] = useState('');
  const saving = useSave(() => changeMembers(logger, uids), []);
  const name = loggers.find((one) => one.uid === logger)?.name ?? '';
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Choice
        label="Record them by"
        value={logger}
        options={loggers.map((one) => ({ value: one.uid, label: `${one.name}: ${one.text}` }))}
        onChange={setLogger}
        {...(loggers.length === 0 ? { hint: 'There is no logger yet: add one under Loggers.' } : {})}
      />
      <Box>
        <Button
          size="small"
          variant="contained"
          disabled={logger === '' || saving.busy}
          onClick={() => saving.run(null)}
        >
          Record {uids.length} tags
        </Button>
      </Box>
      {saving.done && <Told kind="good">{name} records them within 2 s.</Told>}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
    </Box>
  );
}

function OneAttribute({ uids }: { uids: string[] }): ReactElement {
  const [attribute, setAttribute] = useState('unit');
  const [value, setValue] = useState('');
  const wanted = attributeValue(attribute, value);
  const change = (dryRun: boolean) =>
    changeTags({ uids, attributes: { [attribute]: wanted }, revisions: {}, dry_run: dryRun });
  const preview = useQuery({
    queryKey: ['setup-bulk', uids, attribute, wanted],
    queryFn: () => change(true),
    enabled: wanted !== null && value !== '',
    retry: false,
  });
  const saving = useSave(() => change(false), []);
  return (
    <Box sx={{ display: 'grid', gap: 1.5, borderTop: 1, borderColor: 'divider', pt: 1.5 }}>
      <Choice label="Change for all" value={attribute} options={ATTRIBUTES} onChange={setAttribute} />
      <TextLine
        label="to"
        value={value}
        onChange={setValue}
        problem={wanted === null ? 'This cannot be read.' : undefined}
      />
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
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      {saving.done && <Told kind="good">Changed.</Told>}
      <Box>
        <Button
          size="small"
          variant="outlined"
          disabled={saving.busy || preview.data === undefined || preview.data.tags === 0}
          onClick={() => saving.run(null)}
        >
          Change {preview.data?.tags ?? ''} tags
        </Button>
      </Box>
    </Box>
  );
}

function attributeValue(attribute: string, value: string): string | number | null {
  if (attribute === 'scan_us') return parseWritten(value);
  if (!NUMBERS.includes(attribute)) return value;
  return parseNumber(value);
}
