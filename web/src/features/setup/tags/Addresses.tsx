/** Where a member is read, by protocol: each as JSON, in patterns. */
import { Box, TextField } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import type { Member } from '../equipment/equipment';
import { PROTOCOLS } from '../common/protocols';

interface AddressesProps {
  addresses: Member['addresses'];
  onChange: (addresses: Member['addresses']) => void;
}

export function Addresses({ addresses, onChange }: AddressesProps): ReactElement {
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      {Object.entries(addresses).map(([protocol, address]) => (
        <OneAddress
          key={protocol}
          label={fill(wording.whereLabel, {
            label: PROTOCOLS.find((one) => one.value === protocol)?.label ?? protocol,
          })}
          address={address}
          onChange={(next) => onChange({ ...addresses, [protocol]: next })}
        />
      ))}
    </Box>
  );
}

interface OneAddressProps {
  label: string;
  address: Record<string, unknown>;
  onChange: (address: Record<string, unknown>) => void;
}

function OneAddress({ label, address, onChange }: OneAddressProps): ReactElement {
  const [text, setText] = useState(JSON.stringify(address, null, 1));
  const wrong = parsed(text) === null;
  return (
    <TextField
      variant="standard"
      size="small"
      fullWidth
      multiline
      maxRows={8}
      label={label}
      value={text}
      error={wrong}
      helperText={wrong ? wording.thisIsNoJsonObject : undefined}
      onChange={(event) => {
        setText(event.target.value);
        const found = parsed(event.target.value);
        if (found !== null) onChange(found);
      }}
      slotProps={{
        inputLabel: { shrink: true },
        input: { sx: { typography: 'caption', fontFamily: 'B612 Mono' } },
      }}
    />
  );
}

function parsed(text: string): Record<string, unknown> | null {
  try {
    const found: unknown = JSON.parse(text);
    return typeof found === 'object' && found !== null && !Array.isArray(found)
      ? (found as Record<string, unknown>)
      : null;
  } catch {
    return null;
  }
}
