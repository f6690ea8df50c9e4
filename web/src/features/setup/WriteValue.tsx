/** Writes a value to a tag that takes one. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { client } from '../../api/client';
import { parseNumber } from '../../shared/lib/numbers';
import { TextLine, Told } from '../../shared/ui';
import type { TagRow } from './queries';
import { useSave } from './useSave';

interface WriteValueProps {
  uid: string;
  kind: TagRow['value_type'];
}

export function WriteValue({ uid, kind }: WriteValueProps): ReactElement {
  const [text, setText] = useState('');
  const value = valueOf(text, kind);
  const writing = useSave(async () => {
    await client.PUT('/api/setup/tags/{uid}/value', {
      params: { path: { uid } },
      body: { value: value ?? 0 },
    });
  }, ['value']);
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
        <TextLine
          label="Write a value"
          value={text}
          placeholder={kind === 'boolean' ? 'on or off' : ''}
          onChange={setText}
          problem={
            writing.problem('value') ??
            (text !== '' && value === null ? 'This is no value of it.' : undefined)
          }
        />
        <Button
          size="small"
          variant="outlined"
          disabled={value === null || writing.busy}
          onClick={() => writing.run(null)}
        >
          Write
        </Button>
      </Box>
      {writing.done && <Told kind="good">Written.</Told>}
      {writing.general !== null && <Told kind="error">{writing.general}</Told>}
    </Box>
  );
}

function valueOf(text: string, kind: TagRow['value_type']): number | null {
  const plain = text.trim().toLowerCase();
  if (kind === 'boolean' && (plain === 'on' || plain === 'off')) return plain === 'on' ? 1 : 0;
  return parseNumber(plain);
}
