/** A choice in a line of words, without a label to be seen. */
import { NativeSelect } from '@mui/material';
import type { ReactElement } from 'react';

interface HeadChoiceProps<T extends string> {
  /** For those who listen. */
  label: string;
  value: T;
  options: readonly T[];
  words: (option: T) => string;
  onChange: (value: T) => void;
  /** At the right end of its line. */
  atEnd?: boolean;
}

export function HeadChoice<T extends string>(props: HeadChoiceProps<T>): ReactElement {
  const { label, value, options, words, onChange, atEnd = false } = props;
  return (
    <NativeSelect
      value={value}
      onChange={(event) => {
        const chosen = options.find((one) => one === event.target.value);
        if (chosen !== undefined) onChange(chosen);
      }}
      inputProps={{ 'aria-label': label }}
      // As wide as what is chosen, where the browser can: the line has room for little.
      sx={{ typography: 'body2', ml: atEnd ? 'auto' : 0, '& select': { fieldSizing: 'content' } }}
    >
      {options.map((one) => (
        <option key={one} value={one}>
          {words(one)}
        </option>
      ))}
    </NativeSelect>
  );
}
