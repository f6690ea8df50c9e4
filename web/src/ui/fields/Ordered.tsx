/** Some of several choices, in an order. */
import { ArrowDownward, ArrowUpward } from '@mui/icons-material';
import { Box, Checkbox, FormControlLabel, IconButton, Typography } from '@mui/material';
import { useId, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { fill } from '../../domain/fill';

interface OrderedProps<T extends string> {
  label: string;
  options: readonly { value: T; label: string }[];
  /** What is chosen, in its order. */
  value: readonly T[];
  onChange: (value: T[]) => void;
}

export function Ordered<T extends string>({
  label,
  options,
  value,
  onChange,
}: OrderedProps<T>): ReactElement {
  const id = useId();
  const nameOf = (one: T): string => options.find((option) => option.value === one)?.label ?? one;
  const rest = options.map((option) => option.value).filter((one) => !value.includes(one));
  const move = (one: T, by: 1 | -1): void => {
    const others = value.filter((other) => other !== one);
    const place = value.indexOf(one) + by;
    onChange([...others.slice(0, place), one, ...others.slice(place)]);
  };
  return (
    <Box role="group" aria-labelledby={id}>
      <Typography id={id} variant="caption" sx={{ color: 'text.secondary' }}>
        {label}
      </Typography>
      {[...value, ...rest].map((one) => (
        <Box key={one} sx={{ display: 'flex', alignItems: 'center' }}>
          <FormControlLabel
            sx={{ flex: 1 }}
            control={
              <Checkbox
                size="small"
                sx={{ py: 0.25 }}
                checked={value.includes(one)}
                onChange={(_, on) => onChange(on ? [...value, one] : value.filter((other) => other !== one))}
              />
            }
            label={nameOf(one)}
          />
          {value.includes(one) && (
            <>
              <Arrow
                label={fill(wording.nameFurtherUp, { name: nameOf(one) })}
                icon={<ArrowUpward fontSize="small" />}
                disabled={value[0] === one}
                onClick={() => move(one, -1)}
              />
              <Arrow
                label={fill(wording.nameFurtherDown, { name: nameOf(one) })}
                icon={<ArrowDownward fontSize="small" />}
                disabled={value.at(-1) === one}
                onClick={() => move(one, 1)}
              />
            </>
          )}
        </Box>
      ))}
    </Box>
  );
}

interface ArrowProps {
  label: string;
  icon: ReactElement;
  disabled: boolean;
  onClick: () => void;
}

function Arrow({ label, icon, ...props }: ArrowProps): ReactElement {
  return (
    <IconButton size="small" aria-label={label} {...props}>
      {icon}
    </IconButton>
  );
}
