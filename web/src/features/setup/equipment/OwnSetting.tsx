/** One setting that a piece has otherwise than its class. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { parseNumber } from '../../../domain/numbers';
import { Choice } from '../../../ui';
import { fieldsOf, InnerFields, shapes, useSentForm } from '../../../ui/form';
import type { Member } from './equipment';

const SETTINGS = [
  { value: 'range_low', label: common.rangeFrom },
  { value: 'range_high', label: common.rangeTo },
  { value: 'limits', label: wording.limitsLowAndHigh },
  { value: 'description', label: common.description },
  { value: 'decimals', label: common.decimals },
  { value: 'scan_us', label: wording.readEveryS },
] as const;

interface OwnSettingProps {
  members: readonly Member[];
  onOwn: (key: string, change: Record<string, unknown>) => void;
}

export function OwnSetting({ members, onOwn }: OwnSettingProps): ReactElement {
  const [key, setKey] = useState(members[0]?.key ?? '');
  const [setting, setSetting] = useState<string>('range_high');
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1, mt: 1 }}>
      <Choice
        label={common.tag}
        value={key}
        options={members.map((one) => ({ value: one.key, label: one.key }))}
        onChange={setKey}
      />
      <Choice label={wording.setting} value={setting} options={SETTINGS} onChange={setSetting} />
      <OwnValue key={setting} setting={setting} onValue={(value) => onOwn(key, { [setting]: value })} />
    </Box>
  );
}

interface Typed {
  text: string;
}

const Fields = fieldsOf<Typed>();

function OwnValue({
  setting,
  onValue,
}: {
  setting: string;
  onValue: (value: unknown) => void;
}): ReactElement {
  const typed = useSentForm<Typed, unknown>({
    values: { text: '' },
    shape: shapes.shape({ text: shapes.text((text) => problemOf(setting, text)) }),
    send: ({ text }) => onValue(valueOf(setting, text)),
  });
  return (
    <InnerFields of={typed}>
      <Fields.Text name="text" label={common.value} placeholder={setting === 'limits' ? '70 86' : ''} />
      <Box>
        <Button size="small" onClick={typed.send}>
          {wording.addOverride}
        </Button>
      </Box>
    </InnerFields>
  );
}

function problemOf(setting: string, text: string): string | null {
  if (valueOf(setting, text) !== null) return null;
  if (setting === 'description') return wording.typeADescription;
  return setting === 'limits' ? wording.typeTwoNumbersWithASpace : common.typeANumber;
}

function valueOf(setting: string, text: string): unknown {
  if (text.trim() === '') return null;
  if (setting === 'description') return text;
  const numbers = text.trim().split(/\s+/).map(parseNumber);
  if (numbers.some((one) => one === null)) return null;
  if (setting === 'limits') return numbers.length === 2 ? numbers : null;
  return numbers.length === 1 ? numbers[0] : null;
}
