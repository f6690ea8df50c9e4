/** Finds a tag from any page, and opens its trend. */
import { Autocomplete, Box, Dialog, TextField } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { errorText } from '../platform/errors';
import { TagLines, Told } from '../ui';
import { onlyTag, tagChoiceQuery } from '../entities/tags';

export function FindTag({ onClose }: { onClose: () => void }): ReactElement {
  const navigate = useNavigate();
  const [text, setText] = useState('');
  const search = useDeferredValue(text.trim());
  const queries = useQueryClient();
  const { data: tags = [], error, isPending, isPlaceholderData } = useQuery(tagChoiceQuery(search));
  const isOld = isPending || isPlaceholderData || search !== text.trim();
  const open = (tag: { uid: string } | null): void => {
    if (tag === null) return;
    onClose();
    void navigate(`/trends?tags=${tag.uid}&last=PT10M`);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      aria-label="Find a tag"
      sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}
    >
      <Box sx={{ p: 2, minHeight: 'min(480px, 70vh)' }}>
        <Autocomplete
          open
          autoHighlight
          disablePortal
          forcePopupIcon={false}
          options={tags}
          inputValue={text}
          loading={isPending}
          // The server has chosen them already.
          filterOptions={(all) => all}
          getOptionLabel={(tag) => tag.name}
          getOptionKey={(tag) => tag.uid}
          noOptionsText="No tag matches."
          onInputChange={(_, next, reason) => reason === 'input' && setText(next)}
          // The list may still be that of what was typed before: its first entry is not what is meant.
          onChange={(_, tag) => {
            if (isOld) void onlyTag(queries, text.trim()).then(open);
            else open(tag);
          }}
          onKeyDown={(event) => event.key === 'Escape' && onClose()}
          renderOption={({ key, ...props }, tag) => (
            <Box component="li" key={key} {...props}>
              <TagLines tag={tag} />
            </Box>
          )}
          renderInput={(params) => (
            <TextField
              {...params}
              autoFocus
              variant="standard"
              label="Find a tag"
              placeholder="Name, description, unit, equipment"
            />
          )}
        />
        {error !== null && <Told kind="error">{errorText(error)}</Told>}
      </Box>
    </Dialog>
  );
}
