/** Writes a value to a tag that takes one; one outside its range is asked about first. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { parseNumber } from '../../../domain/numbers';
import { InnerForm, TextLine, Told } from '../../../ui';
import { useSave } from '../common/useSave';
import type { TagRow } from '../../../entities/tags';
import { writeValue } from '../../../entities/tags';

export function WriteValue({ tag }: { tag: TagRow }): ReactElement {
  const [text, setText] = useState('');
  const [asked, setAsked] = useState(false);
  const value = valueOf(text, tag.value_type);
  const writing = useSave(
    (number: number) => writeValue(tag.uid, number),
    ['value'],
    () => setAsked(false),
  );
  const write = (sure: boolean): void => {
    if (value === null || writing.busy) return;
    if (!sure && isOutside(value, tag)) setAsked(true);
    else writing.run(value);
  };
  return (
    <InnerForm onEnter={() => write(false)}>
      <Box sx={{ display: 'grid', gap: 1 }}>
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
          <TextLine
            label="Write a value"
            value={text}
            placeholder={tag.value_type === 'boolean' ? 'on or off' : ''}
            onChange={(next) => {
              setText(next);
              setAsked(false);
              writing.reset();
            }}
            problem={
              writing.problem('value') ??
              (text !== '' && value === null ? 'This is no value of it.' : undefined)
            }
          />
          <Button
            size="small"
            variant="outlined"
            disabled={value === null || writing.busy}
            onClick={() => write(false)}
          >
            Write
          </Button>
        </Box>
        {asked && value !== null && (
          <>
            <Told kind="error">
              {value} is outside the range of {tag.name}, {tag.range_low} to {tag.range_high} {tag.unit}.
            </Told>
            <Box sx={{ display: 'flex', gap: 1 }}>
              <Button size="small" color="error" variant="outlined" autoFocus onClick={() => write(true)}>
                Write {value} all the same
              </Button>
              <Button size="small" onClick={() => setAsked(false)}>
                Cancel
              </Button>
            </Box>
          </>
        )}
        {writing.done && <Told kind="good">Written.</Told>}
        {writing.general !== null && <Told kind="error">{writing.general}</Told>}
      </Box>
    </InnerForm>
  );
}

function isOutside(value: number, tag: TagRow): boolean {
  if (tag.value_type !== 'float' && tag.value_type !== 'integer') return false;
  return value < tag.range_low || value > tag.range_high;
}

function valueOf(text: string, kind: TagRow['value_type']): number | null {
  const plain = text.trim().toLowerCase();
  if (kind === 'boolean' && (plain === 'on' || plain === 'off')) return plain === 'on' ? 1 : 0;
  return parseNumber(plain);
}
