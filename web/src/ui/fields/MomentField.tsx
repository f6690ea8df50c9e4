/** A day and a time of day as clocks at the plant show them: day before month, 24 hours. */
import { LocalizationProvider } from '@mui/x-date-pickers/LocalizationProvider';
import { AdapterLuxon } from '@mui/x-date-pickers/AdapterLuxon';
import { DateTimePicker } from '@mui/x-date-pickers/DateTimePicker';
import { DateTime } from 'luxon';
import { useState, type ReactElement } from 'react';

interface MomentFieldProps {
  label: string;
  /** What it shows at first, µs. What is typed then is the field's own: of a moment that is not whole yet no part is lost. */
  first: number;
  zone: string;
  /** Null: what stands there is no moment. */
  onChange: (us: number | null) => void;
  problem?: string | undefined;
}

export function MomentField({ label, first, zone, onChange, problem }: MomentFieldProps): ReactElement {
  const [shown] = useState(() => DateTime.fromMillis(first / 1000, { zone }));
  return (
    <LocalizationProvider dateAdapter={AdapterLuxon} adapterLocale="en-gb">
      <DateTimePicker
        label={label}
        defaultValue={shown}
        timezone={zone}
        ampm={false}
        format="dd.MM.yyyy HH:mm:ss"
        views={['year', 'month', 'day', 'hours', 'minutes', 'seconds']}
        onChange={(next) => onChange(next?.isValid === true ? next.toMillis() * 1000 : null)}
        slotProps={{
          textField: {
            variant: 'standard',
            size: 'small',
            fullWidth: true,
            ...(problem === undefined ? {} : { error: true, helperText: problem }),
          },
        }}
      />
    </LocalizationProvider>
  );
}
