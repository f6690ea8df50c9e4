/** New tags: one, or a series by a pattern and a range of addresses, recorded at once if wished. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Choice, FormActions, NumberLine, Pairs, Panel, Switched, Told } from '../../../ui';
import { NodePick } from '../sources/NodePick';
import { firstAddress, placeText } from '../common/protocols';
import { TAG_FIELDS, TagFields } from './TagFields';
import { useSave } from '../common/useSave';
import { loggersQuery } from '../../../entities/loggers';
import type { Source } from '../../../entities/sources';
import type { TagIn } from '../../../entities/tags';
import { newTagsPreview, addTags } from '../../../entities/tags';

interface TagAddPanelProps {
  sources: readonly Source[];
  onClose: () => void;
}

const MOST_SHOWN = 6;

export function TagAddPanel({ sources, onClose }: TagAddPanelProps): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const [source, setSource] = useState(sources.at(-1));
  const [tag, setTag] = useState<TagIn>(() => fresh(sources.at(-1)));
  const [count, setCount] = useState(1);
  const [start, setStart] = useState(1);
  const [logger, setLogger] = useState('');
  const body = { tags: [tag], count, start, step: null, logger: logger === '' ? null : logger };
  const preview = useQuery({
    queryKey: ['setup-preview', tag, count, start],
    queryFn: ({ signal }) => newTagsPreview({ ...body, dry_run: true }, signal),
    enabled: count > 1 && tag.name !== '',
    retry: false,
  });
  const saving = useSave(
    () => addTags({ ...body, dry_run: false }),
    [...TAG_FIELDS, 'count'],
    // What was entered for one is offered for the next.
    () => setTag({ ...tag, name: '' }),
  );
  const [picks, setPicks] = useState(true);
  const picking = picks && source?.protocol === 'opc_ua' ? source : null;
  const recordedBy = (
    <Choice
      label="Recorded by"
      value={logger}
      options={[
        { value: '', label: 'no logger yet' },
        ...loggers.map((one) => ({ value: one.uid, label: `${one.name}: ${one.text}` })),
      ]}
      onChange={setLogger}
    />
  );
  return (
    <Panel
      title="New tags"
      onClose={onClose}
      onSubmit={() => (picking === null ? saving.run(null) : undefined)}
    >
      <Choice
        label="Source"
        value={source?.uid ?? ''}
        options={sources.map((one) => ({ value: one.uid, label: one.name }))}
        onChange={(uid) => {
          const next = sources.find((one) => one.uid === uid);
          setSource(next);
          setTag({
            ...tag,
            source: uid,
            ...(next?.protocol === source?.protocol ? {} : { address: firstAddress(next?.protocol ?? '') }),
          });
        }}
      />
      {source?.protocol === 'opc_ua' && (
        <Switched label="Choose from what the server has" value={picks} onChange={setPicks} />
      )}
      {picking !== null && recordedBy}
      {picking !== null && <NodePick key={picking.uid} source={picking} like={tag} logger={logger} />}
      {picking === null && (
        <>
          <Pairs>
            <NumberLine
              label="How many"
              value={count}
              onChange={setCount}
              problem={saving.problem('count')}
            />
            {count > 1 && <NumberLine label="Numbered from" value={start} onChange={setStart} />}
          </Pairs>
          <TagFields
            tag={tag}
            protocol={source?.protocol ?? 'modbus_tcp'}
            onChange={setTag}
            problem={saving.problem}
            {...(count > 1
              ? { nameHint: '{n} is the number, {n:2} with two digits, {address} the address' }
              : {})}
          />
          {recordedBy}
          {preview.data !== undefined && count > 1 && (
            <Box
              component="ul"
              aria-label="The new tags"
              sx={{ m: 0, pl: 2, fontSize: 12, color: 'text.secondary' }}
            >
              {preview.data.names.slice(0, MOST_SHOWN).map((name, i) => (
                <li key={name}>
                  {name}: {placeText(preview.data.addresses[i] ?? {})}
                </li>
              ))}
              {preview.data.names.length > MOST_SHOWN && (
                <Typography component="li" sx={{ fontSize: 12 }}>
                  … and so on to {preview.data.names.at(-1)}
                </Typography>
              )}
            </Box>
          )}
          {saving.general !== null && <Told kind="error">{saving.general}</Told>}
          {saving.done && <Told kind="good">Added. The recorder reads them within 2 s.</Told>}
          <FormActions save={count > 1 ? `Add ${count} tags` : 'Add'} busy={saving.busy} />
        </>
      )}
    </Panel>
  );
}

function fresh(source: Source | undefined): TagIn {
  return {
    name: '',
    source: source?.uid ?? '',
    address: firstAddress(source?.protocol ?? 'modbus_tcp'),
    description: '',
    value_type: 'float',
    unit: '',
    range_low: 0,
    range_high: 100,
    decimals: 1,
    stepped: false,
    equipment: '',
    scan_us: 1_000_000,
    colour: '',
    states: '',
  };
}
