/** One tag, found as one types. */
import { Autocomplete, TextField } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import type { Tag } from '../platform/client';
import { tagChoiceQuery, tagNamesQuery } from './tags';

interface TagChoiceProps {
  label: string;
  /** Uid, or null for none. */
  value: string | null;
  onChange: (uid: string | null, tag: Tag | null) => void;
  none: string;
  /** What is chosen goes into a list elsewhere: the field is empty again after each tag, and keeps what is typed
   * whatever becomes of the list. */
  adds?: boolean;
  problem?: string | undefined;
}

export function TagChoice({
  label,
  value,
  onChange,
  none,
  adds = false,
  problem,
}: TagChoiceProps): ReactElement {
  const [text, setText] = useState('');
  const { data: named = [] } = useQuery(tagNamesQuery(value === null ? [] : [value]));
  const chosen = named.find((tag) => tag.uid === value) ?? null;
  const { data: found = [] } = useQuery(tagChoiceQuery(text === chosen?.name ? '' : text));
  const options = chosen === null || found.some((tag) => tag.uid === chosen.uid) ? found : [chosen, ...found];
  return (
    <Autocomplete
      size="small"
      options={options}
      value={value === null ? null : chosen}
      filterOptions={(all) => all}
      getOptionLabel={(tag) => tag.name}
      getOptionKey={(tag) => tag.uid}
      isOptionEqualToValue={(a, b) => a.uid === b.uid}
      inputValue={text}
      onInputChange={(_, next, reason) => setText(adds && reason === 'selectOption' ? '' : next)}
      onChange={(_, tag) => onChange(tag?.uid ?? null, tag)}
      renderInput={(params) => (
        <TextField
          {...params}
          variant="standard"
          label={label}
          placeholder={none}
          error={problem !== undefined}
          helperText={problem}
          slotProps={{ ...params.slotProps, inputLabel: { ...params.slotProps.inputLabel, shrink: true } }}
        />
      )}
    />
  );
}
