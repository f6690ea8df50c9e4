/** Which columns of a table from elsewhere are which fields of tags, and what their words become. */
import { Close } from '@mui/icons-material';
import { Box, IconButton, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { Choice, TextLine, Told } from '../../../ui';
import { sourcesQuery } from '../../../entities/sources';
import type { ImportColumns, ImportMapping as Mapping } from '../../../entities/tags';
import { VALUE_TYPES } from '../common/protocols';

interface ImportMappingProps {
  columns: ImportColumns;
  mapping: Mapping;
  onMapping: (mapping: Mapping) => void;
}

const LABELS: Readonly<Record<string, string>> = {
  name: common.name,
  description: common.description,
  value_type: wording.type,
  unit: common.engineeringUnit,
  range_low: common.rangeFrom,
  range_high: wording.rangeTo,
  decimals: common.decimals,
  equipment: common.equipment,
  source: common.source,
  scan_s: wording.readEverySeconds,
  colour: wording.colourOfItsOwn,
  'address.reference': wording.registerAs40001,
  'address.table': common.table,
  'address.address': wording.addressCountedFrom0,
  'address.data_type': wording.dataType,
  'address.node': wording.node,
};
const ONE_VALUE = ' one value';
type From = Mapping[string];

function labelOf(field: string): string {
  return LABELS[field] ?? field;
}

export function ImportMapping({ columns, mapping, onMapping }: ImportMappingProps): ReactElement {
  const shown = columns.fields.filter((field) => field in mapping || columns.needed.includes(field));
  const rest = columns.fields.filter((field) => !shown.includes(field));
  const put = (field: string, from: From): void => onMapping({ ...mapping, [field]: from });
  const leaveOut = (field: string): void =>
    onMapping(Object.fromEntries(Object.entries(mapping).filter(([name]) => name !== field)));
  return (
    <Box component="section" aria-label={wording.columnsOfTheFile} sx={{ maxWidth: 900, mb: 2 }}>
      <Told>{columns.is_kept ? wording.theColumnsAreMappedAsThe : wording.theColumnsAreNotOursTheir}</Told>
      {shown.map((field) => (
        <FieldRow
          key={field}
          field={field}
          from={mapping[field] ?? NOTHING}
          columns={columns}
          onChange={(from) => put(field, from)}
          onRemove={columns.needed.includes(field) ? null : () => leaveOut(field)}
        />
      ))}
      <Box sx={{ width: 260, mt: 1 }}>
        <Choice
          label={wording.anotherField}
          value=""
          options={[
            { value: '', label: common.chooseOne },
            ...rest.map((field) => ({ value: field, label: labelOf(field) })),
          ]}
          onChange={(field) => field !== '' && put(field, NOTHING)}
        />
      </Box>
    </Box>
  );
}

const NOTHING: From = { column: '', value: '', words: {} };

interface FieldRowProps {
  field: string;
  from: From;
  columns: ImportColumns;
  onChange: (from: From) => void;
  onRemove: (() => void) | null;
}

function FieldRow({ field, from, columns, onChange, onRemove }: FieldRowProps): ReactElement {
  const label = labelOf(field);
  const column = columns.columns.find((one) => one.name === from.column);
  const options = useChoices(field);
  return (
    <Box
      role="group"
      aria-label={label}
      sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'flex-end', gap: 2, py: 0.5 }}
    >
      <Box sx={{ width: 260 }}>
        <Choice
          label={fill(wording.columnOfLabel, { label })}
          value={from.column === '' ? ONE_VALUE : from.column}
          options={[
            { value: ONE_VALUE, label: wording.oneValueForAllLines },
            ...columns.columns.map(({ name }) => ({ value: name, label: name })),
          ]}
          onChange={(name) => onChange({ ...from, column: name === ONE_VALUE ? '' : name, words: {} })}
        />
      </Box>
      {column === undefined ? (
        <Box sx={{ width: 260 }}>
          <Word
            label={label}
            value={from.value}
            options={options}
            onChange={(value) => onChange({ ...from, value })}
          />
        </Box>
      ) : (
        <Typography noWrap variant="body2" sx={{ color: 'text.secondary', width: 360, maxWidth: 1 }}>
          {column.examples.join(', ')}
        </Typography>
      )}
      {onRemove !== null && (
        <IconButton size="small" aria-label={fill(common.removeName, { name: label })} onClick={onRemove}>
          <Close fontSize="small" />
        </IconButton>
      )}
      {column !== undefined && (
        <Words field={field} from={from} words={column.words} columns={columns} onChange={onChange} />
      )}
    </Box>
  );
}

/** The fields whose words may be other ones elsewhere. */
const WORDED = ['value_type', 'address.data_type', 'unit', 'source', 'stepped', 'address.table'];

interface WordsProps extends Pick<FieldRowProps, 'field' | 'from' | 'columns' | 'onChange'> {
  words: readonly string[];
}

/** What the words of a column become that are not understood without being told. */
function Words({ field, from, words, columns, onChange }: WordsProps): ReactElement | null {
  const options = useChoices(field);
  const known = columns.known_words[field] ?? {};
  const asked = words.filter(
    (word) => !(word.toLowerCase() in known) && !options.some((option) => option.value === word),
  );
  if (!WORDED.includes(field) || asked.length === 0) return null;
  return (
    <Box sx={{ width: 1, display: 'flex', flexWrap: 'wrap', gap: 2, pl: 2 }}>
      {asked.map((word) => (
        <Box key={word} sx={{ width: 180 }}>
          <Word
            label={fill(wording.wordBecomes, { word })}
            value={from.words?.[word] ?? ''}
            placeholder={word}
            options={options}
            onChange={(next) => onChange({ ...from, words: withWord(from.words ?? {}, word, next) })}
          />
        </Box>
      ))}
    </Box>
  );
}

function withWord(words: Record<string, string>, word: string, next: string): Record<string, string> {
  const others = Object.fromEntries(Object.entries(words).filter(([name]) => name !== word));
  return next === '' ? others : { ...others, [word]: next };
}

interface WordProps {
  label: string;
  value: string;
  placeholder?: string;
  options: readonly { value: string; label: string }[];
  onChange: (value: string) => void;
}

/** One of what there is, or a text. */
function Word({ label, value, placeholder = '', options, onChange }: WordProps): ReactElement {
  if (options.length === 0) {
    return <TextLine label={label} value={value} placeholder={placeholder} onChange={onChange} />;
  }
  const all = [{ value: '', label: common.chooseOne }, ...options];
  return <Choice label={label} value={value} options={all} onChange={onChange} />;
}

/** What a field may be, where that is a choice. */
function useChoices(field: string): readonly { value: string; label: string }[] {
  const { data: sources = [] } = useQuery({ ...sourcesQuery, enabled: field === 'source' });
  if (field === 'source') return sources.map(({ name }) => ({ value: name, label: name }));
  return field === 'value_type' ? VALUE_TYPES : [];
}
