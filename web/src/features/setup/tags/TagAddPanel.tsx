/** New tags: one, or a series by a pattern and a range of addresses, recorded at once if wished. */
import { Box, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useWatch, type Control } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { Choice, Pairs, Panel, Switched, Told } from '../../../ui';
import { errorText } from '../../../platform/errors';
import { FormFields, fieldsOf, shapes } from '../../../ui/form';
import { lazyPart } from '../../../ui/lazyPart';
import { addressLike, firstAddress } from '../common/choices';
import { placeText } from '../common/protocols';
import { TAG_NUMBERS, TAG_PLACES, TagFields } from './TagFields';
import { copied } from '../common/Duplicate';
import { StoredEnd } from '../common/StoredForm';
import { useStoredForm } from '../common/useStoredForm';
import { loggersQuery } from '../../../entities/loggers';
import type { Source } from '../../../entities/sources';
import type { TagIn, TagRow, TagsIn } from '../../../entities/tags';
import { lastTagQuery, newTagsPreview, addTags, tagRowQuery } from '../../../entities/tags';

interface TagAddPanelProps {
  /** They begin as a copy of this one. */
  like: string | null;
  sources: readonly Source[];
  onClose: () => void;
}

const MOST_SHOWN = 6;

/** Only servers with a tree need it. */
const NodePick = lazyPart(
  wording.whatTheServerHas,
  async () => (await import('../sources/NodePick')).NodePick,
);

/** What new tags are entered as: one, and how many like it. */
type NewTags = TagIn & { count: number; start: number; logger: string };

const Fields = fieldsOf<NewTags>();
const SHAPE = shapes.shape({ ...TAG_NUMBERS, count: shapes.number, start: shapes.number });

export function TagAddPanel({ like, ...props }: TagAddPanelProps): ReactElement | null {
  const { data, error } = useQuery(tagRowQuery(like));
  const last = useQuery(lastTagQuery(like === null ? (newestOf(props.sources)?.uid ?? '') : ''));
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if ((like !== null && data === undefined) || last.isLoading) return null;
  return <NewTagsPanel like={like === null ? null : (data ?? null)} last={last.data ?? null} {...props} />;
}

interface NewTagsPanelProps extends Omit<TagAddPanelProps, 'like'> {
  like: TagRow | null;
  /** What was added last to the source that they begin with: they begin to be read as it is. */
  last: TagRow | null;
}

function NewTagsPanel({ like, last, sources, onClose }: NewTagsPanelProps): ReactElement {
  const { data: loggers = [] } = useQuery(loggersQuery);
  const queries = useQueryClient();
  const stored = useStoredForm({
    stored: null,
    valuesOf: () => fresh(newestOf(sources), like, last),
    shape: SHAPE,
    save: (values: NewTags) => addTags({ ...bodyOf(values), dry_run: false }),
    versionOf: () => null,
    // What was entered for one is offered for the next.
    onDone: () => stored.form.reset({ ...stored.form.getValues(), name: '' }),
    also: TAG_PLACES,
  });
  const { control, getValues, setValue } = stored.form;
  const [source, count] = useWatch({ control, name: ['source', 'count'] });
  const protocol = sources.find((one) => one.uid === source)?.protocol ?? 'modbus_tcp';
  const [picks, setPicks] = useState(true);
  const picking = picks ? sources.find((one) => one.uid === source && one.protocol === 'opc_ua') : undefined;
  const begin = (uid: string): void => {
    const next = sources.find((one) => one.uid === uid)?.protocol ?? '';
    setValue('source', uid, { shouldDirty: true });
    const put = (names: readonly Setting[], begun: Settings): void => {
      for (const name of names) setValue(name, begun[name], { shouldDirty: true });
    };
    if (next !== protocol) put(SETTINGS, settingsLike(next, null));
    const before = textsOf(getValues());
    const beginLike = (found: TagRow | null): void => {
      if (found === null || getValues('source') !== uid) return;
      // The answer may come late: what was entered meanwhile stays.
      const now = textsOf(getValues());
      put(
        SETTINGS.filter((name) => now[name] === before[name]),
        settingsLike(next, found),
      );
    };
    // Without an answer they begin with what is usual.
    queries.query(lastTagQuery(uid)).then(beginLike, () => undefined);
  };
  const recordedBy = (
    <Fields.Choice
      name="logger"
      label={common.recordedBy}
      options={[
        { value: '', label: wording.noLoggerYet },
        ...loggers.map((one) => ({ value: one.uid, label: `${one.name}: ${one.text}` })),
      ]}
    />
  );
  return (
    <FormFields of={stored}>
      <Panel
        title={wording.newTags}
        onClose={onClose}
        onSubmit={(event) => (picking === undefined ? stored.onSubmit(event) : undefined)}
      >
        <Choice
          label={common.source}
          value={source}
          options={sources.map((one) => ({ value: one.uid, label: one.name }))}
          onChange={begin}
        />
        {protocol === 'opc_ua' && (
          <Switched label={wording.chooseFromWhatTheServerHas} value={picks} onChange={setPicks} />
        )}
        {picking !== undefined && (
          <>
            {recordedBy}
            <Picking
              key={picking.uid}
              source={picking}
              control={control}
              onAdded={() => stored.form.reset(stored.form.getValues())}
            />
          </>
        )}
        {picking === undefined && (
          <>
            <Pairs>
              <Fields.Number name="count" label={wording.howMany} />
              {count > 1 && <Fields.Number name="start" label={wording.numberedFrom} />}
            </Pairs>
            <TagFields protocol={protocol} {...(count > 1 ? { nameHint: wording.nIsTheNumberN2 } : {})} />
            {recordedBy}
            <Preview control={control} />
            <StoredEnd
              stored={stored}
              save={count > 1 ? fill(wording.addCountTags, { count }) : common.add}
              said={wording.addedTheRecorderReadsThemWithin}
            />
          </>
        )}
      </Panel>
    </FormFields>
  );
}

interface OfFormProps {
  control: Control<NewTags>;
}

/** Chosen in the server's tree instead of typed. */
function Picking({
  source,
  control,
  onAdded,
}: OfFormProps & { source: Source; onAdded: () => void }): ReactElement {
  const like = useWatch({ control }) as NewTags;
  return (
    <NodePick source={source} like={bodyOf(like).tags[0] ?? like} logger={like.logger} onAdded={onAdded} />
  );
}

/** The names that more than one will have. */
function Preview({ control }: OfFormProps): ReactElement | null {
  const values = useWatch({ control }) as NewTags;
  const body = bodyOf(values);
  const { data } = useQuery({
    queryKey: ['setup-preview', body],
    queryFn: ({ signal }) => newTagsPreview({ ...body, dry_run: true }, signal),
    enabled: body.count > 1 && values.name !== '',
    retry: false,
  });
  if (data === undefined || !(body.count > 1)) return null;
  return (
    <Box
      component="ul"
      aria-label={wording.theNewTags}
      sx={{ typography: 'caption', m: 0, pl: 2, color: 'text.secondary' }}
    >
      {data.names.slice(0, MOST_SHOWN).map((name, i) => (
        <li key={name}>
          {name}: {placeText(data.addresses[i] ?? {})}
        </li>
      ))}
      {data.names.length > MOST_SHOWN && (
        <Typography component="li" variant="caption">
          {wording.andSoOnTo} {data.names.at(-1)}
        </Typography>
      )}
    </Box>
  );
}

function bodyOf({ count, start, logger, ...tag }: NewTags): Omit<TagsIn, 'dry_run'> {
  return { tags: [tag], count, start, step: null, logger: logger === '' ? null : logger, temporary: false };
}

/** Who has just added a source adds tags to it. */
function newestOf(sources: readonly Source[]): Source | undefined {
  return [...sources].sort((one, two) => two.number - one.number)[0];
}

const USUAL = { value_type: 'float', scan_us: 1_000_000, stepped: false, decimals: 1 } as const;
const SETTINGS = ['address', 'value_type', 'scan_us', 'stepped', 'decimals'] as const;

type Setting = (typeof SETTINGS)[number];
type Settings = Pick<NewTags, Setting>;

/** Settings as they are compared: fields change an address in its place. */
function textsOf(values: NewTags): Record<Setting, string> {
  return Object.fromEntries(SETTINGS.map((name) => [name, JSON.stringify(values[name])])) as never;
}

/** How the tag that was added last to a source is read; what is usual where there is none. */
function settingsLike(protocol: string, last: TagRow | null): Settings {
  const { value_type, scan_us, stepped, decimals } = last ?? USUAL;
  return { address: addressLike(protocol, last?.address ?? null), value_type, scan_us, stepped, decimals };
}

function fresh(source: Source | undefined, like: TagRow | null, last: TagRow | null): NewTags {
  const values = { ...usual(source), ...settingsLike(source?.protocol ?? 'modbus_tcp', last) };
  if (like === null) return values;
  const own = Object.entries(like).filter(([name]) => name in values);
  return copied({ ...values, ...(Object.fromEntries(own) as Partial<NewTags>) }, true);
}

function usual(source: Source | undefined): NewTags {
  return {
    count: 1,
    start: 1,
    logger: '',
    name: '',
    source: source?.uid ?? '',
    address: firstAddress(source?.protocol ?? 'modbus_tcp'),
    ...USUAL,
    description: '',
    unit: '',
    range_low: 0,
    range_high: 100,
    equipment: '',
    colour: '',
    states: '',
  };
}
