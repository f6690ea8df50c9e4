/** Writes a value to a tag that takes one; one outside its range is asked about first. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../domain/fill';
import { parseNumber } from '../domain/numbers';
import { Told, Offered } from '../ui';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../ui/form';
import type { Tag } from '../platform/client';
import { writeValue } from './tags';
import { Needs } from './access/Needs';

interface Written {
  text: string;
}

const Fields = fieldsOf<Written>();
const ALSO = { value: 'text' };

type Writable = Pick<Tag, 'uid' | 'name' | 'value_type' | 'unit' | 'range_low' | 'range_high'>;

interface WriteValueProps {
  tag: Writable;
  onDone?: () => Promise<void>;
}

/** Only to those who may. */
export function WriteValue(props: WriteValueProps): ReactElement {
  return (
    <Needs permission="write_values">
      <Offered>
        <WriteForm {...props} />
      </Offered>
    </Needs>
  );
}

function WriteForm({ tag, onDone }: WriteValueProps): ReactElement {
  const kind = tag.value_type;
  const writing = useSentForm<Written, unknown>({
    values: { text: '' },
    shape: shapes.shape({ text: shapes.text((text) => problemOf(text, kind)) }),
    send: ({ text }) => writeValue(tag.uid, valueOf(text, kind) ?? NaN),
    ...(onDone !== undefined && { onDone }),
    stays: true,
    also: ALSO,
  });
  const value = valueOf(useWatch({ control: writing.form.control, name: 'text' }), kind);
  // Somebody has to say it of this very value.
  const [asked, setAsked] = useState<number | null>(null);
  const isAsked = asked !== null && asked === value;
  const write = (): void => {
    if (value !== null && isOutside(value, tag)) setAsked(value);
    else writing.send();
  };
  return (
    <InnerFields of={{ ...writing, send: write }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
        <Fields.Text
          name="text"
          label={wording.writeAValue}
          placeholder={kind === 'boolean' ? wording.onOrOff : ''}
        />
        <Button size="small" variant="outlined" disabled={value === null || writing.busy} onClick={write}>
          {wording.write}
        </Button>
      </Box>
      {isAsked && (
        <>
          <Told kind="error">
            {fill(wording.askedIsOutsideTheRangeOf, {
              asked,
              name: tag.name,
              value: tag.range_low,
              value2: tag.range_high,
            })}{' '}
            {tag.unit}.
          </Told>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button
              size="small"
              color="error"
              variant="outlined"
              autoFocus
              onClick={() => {
                setAsked(null);
                writing.send();
              }}
            >
              {fill(wording.writeAskedAnyway, { asked })}
            </Button>
            <Button size="small" onClick={() => setAsked(null)}>
              {common.cancel}
            </Button>
          </Box>
        </>
      )}
      {writing.done && <Told kind="good">{wording.written}</Told>}
    </InnerFields>
  );
}

function isOutside(value: number, tag: Writable): boolean {
  if (tag.value_type !== 'float' && tag.value_type !== 'integer') return false;
  return value < tag.range_low || value > tag.range_high;
}

function problemOf(text: string, kind: string): string | null {
  if (valueOf(text, kind) !== null) return null;
  return kind === 'boolean' ? wording.typeOnOrOff : common.typeANumber;
}

function valueOf(text: string, kind: string): number | null {
  const plain = text.trim().toLowerCase();
  if (kind === 'boolean' && (plain === common.on || plain === common.off)) return plain === common.on ? 1 : 0;
  return parseNumber(plain);
}
