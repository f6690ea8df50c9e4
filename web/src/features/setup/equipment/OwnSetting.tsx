/** One setting that a piece has otherwise than its class. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { parseNumber } from '../../../domain/numbers';
import { Choice, TextLine } from '../../../ui';
import type { Member } from './equipment';

const FIELDS = [
  { value: 'range_low', label: 'Range from' },
  { value: 'range_high', label: 'Range to' },
  { value: 'limits', label: 'Limits, low and high' },
  { value: 'description', label: 'Description' },
  { value: 'decimals', label: 'Decimals' },
  { value: 'scan_us', label: 'Read every, µs' },
] as const;

interface OwnSettingProps {
  members: readonly Member[];
  onOwn: (key: string, change: Record<string, unknown>) => void;
}

export function OwnSetting({ members, onOwn }: OwnSettingProps): ReactElement {
  const [key, setKey] = useState(members[0]?.key ?? '');
  const [field, setField] = useState<string>('range_high');
  const [text, setText] = useState('');
  const value = valueOf(field, text);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1, mt: 1 }}>
      <Choice
        label="Tag"
        value={key}
        options={members.map((one) => ({ value: one.key, label: one.key }))}
        onChange={setKey}
      />
      <Choice label="Setting" value={field} options={FIELDS} onChange={setField} />
      <TextLine
        label="Is here"
        value={text}
        onChange={setText}
        placeholder={field === 'limits' ? '70 86' : ''}
        problem={text !== '' && value === null ? 'This cannot be used.' : undefined}
      />
      <Box>
        <Button
          size="small"
          disabled={value === null}
          onClick={() => {
            onOwn(key, { [field]: value });
            setText('');
          }}
        >
          Make it its own
        </Button>
      </Box>
    </Box>
  );
}

function valueOf(field: string, text: string): unknown {
  if (text.trim() === '') return null;
  if (field === 'description') return text;
  const numbers = text.trim().split(/\s+/).map(parseNumber);
  if (numbers.some((one) => one === null)) return null;
  if (field === 'limits') return numbers.length === 2 ? numbers : null;
  return numbers.length === 1 ? numbers[0] : null;
}
