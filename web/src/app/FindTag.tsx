/** Finds a tag from any page, and opens its trend. */
import { Autocomplete, Box, Dialog, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { errorText } from '../api/errors';
import { tagChoiceQuery } from '../api/queries';
import { Told } from '../shared/ui';

export function FindTag({ onClose }: { onClose: () => void }): ReactElement {
  const navigate = useNavigate();
  const [text, setText] = useState('');
  const { data: tags = [], error, isPending } = useQuery(tagChoiceQuery(useDeferredValue(text.trim())));
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      aria-label="Find a tag"
      sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}
    >
      <Box sx={{ p: 2, minHeight: 120 }}>
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
          onChange={(_, tag) => {
            if (tag === null) return;
            onClose();
            void navigate(`/trends?tags=${tag.uid}&last=PT10M`);
          }}
          onKeyDown={(event) => event.key === 'Escape' && onClose()}
          renderOption={({ key, ...props }, tag) => (
            <Box component="li" key={key} {...props}>
              <Box sx={{ minWidth: 0 }}>
                <Typography noWrap sx={{ fontSize: 13 }}>
                  {tag.name}
                </Typography>
                <Typography noWrap sx={{ fontSize: 11, color: 'text.secondary' }}>
                  {[tag.unit, tag.recorded.length > 0 ? '' : 'not recorded', tag.description]
                    .filter(Boolean)
                    .join(' · ')}
                </Typography>
              </Box>
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
