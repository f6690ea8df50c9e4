/** Finds a tag, a saved sheet, a page or an action from everywhere, by the keys alone. */
import { Autocomplete, Box, Dialog, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useEffect, useMemo, useState, type ReactElement, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/app.json';
import { PAGES } from '../domain/pages';
import { sheetsOfQuery, sheetsQuery } from '../entities/sheets';
import { tagChoiceQuery } from '../entities/tags';
import type { Tag } from '../platform/client';
import { errorText } from '../platform/errors';
import { Told } from '../ui';
import type { PageAction } from '../ui/pageActions';
import { entriesFor, type Entry } from './paletteEntries';

const NAME = 'palette-name';
/** For screen readers alone: the field says the same to everybody else. */
const HIDDEN = { position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' };

interface PaletteProps {
  actions: readonly PageAction[];
  onTag: (tag: Tag) => void;
  onClose: () => void;
}

export function Palette({ actions, onTag, onClose }: PaletteProps): ReactElement {
  const [text, setText] = useState('');
  const typed = text.trim();
  const { entries, isOld, error } = useEntries(typed, actions, onTag);
  // Who moved to an entry means that one; otherwise Enter means the first one for what was typed.
  const [moved, setMoved] = useState(false);
  const [entered, setEntered] = useState(false);
  // Tags of an earlier text may be others than those for this one; pages, sheets and actions are not.
  const mayBeOther = isOld && (entries[0]?.group ?? 'Tags') === 'Tags';
  const first = entered && !isOld ? entries[0] : undefined;
  const choose = (entry: Entry): void => {
    onClose();
    entry.run();
  };
  // The list was still that of an earlier text when Enter was pressed.
  useEffect(() => {
    if (first === undefined) return;
    onClose();
    first.run();
  }, [first, onClose]);
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      aria-labelledby={NAME}
      sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}
    >
      <Box sx={{ p: 2, minHeight: 'min(480px, 70vh)' }}>
        <Typography id={NAME} component="h2" sx={HIDDEN}>
          {common.find}
        </Typography>
        <Autocomplete
          open
          autoHighlight
          disablePortal
          forcePopupIcon={false}
          options={entries}
          inputValue={text}
          // They are chosen already.
          filterOptions={(all) => all}
          groupBy={(entry) => entry.group}
          getOptionLabel={(entry) => entry.name}
          getOptionKey={(entry) => `${entry.group} ${entry.key}`}
          noOptionsText={isOld ? common.looking : wording.nothingMatches}
          onInputChange={(_, next, reason) => {
            if (reason !== 'input') return;
            setText(next);
            setMoved(false);
            setEntered(false);
          }}
          onHighlightChange={(_, _entry, reason) => reason === 'keyboard' && setMoved(true)}
          onChange={(_, entry) => entry !== null && choose(entry)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') onClose();
            if (event.key !== 'Enter' || !mayBeOther || moved) return;
            event.defaultMuiPrevented = true;
            event.preventDefault();
            setEntered(true);
          }}
          renderGroup={(group) => <Group key={group.key} name={group.group} entries={group.children} />}
          renderOption={({ key, ...props }, entry) => (
            <Box component="li" key={key} {...props}>
              <EntryLines entry={entry} />
            </Box>
          )}
          renderInput={(params) => (
            <TextField
              {...params}
              autoFocus
              variant="standard"
              label={wording.findATagSheetPageOr}
              placeholder={common.nameDescriptionUnitEquipment}
            />
          )}
        />
        {error !== null && <Told kind="error">{errorText(error)}</Told>}
      </Box>
    </Dialog>
  );
}

/** What is found for a text. `isOld`: the tags are still those of an earlier text. */
function useEntries(
  typed: string,
  actions: readonly PageAction[],
  onTag: (tag: Tag) => void,
): { entries: Entry[]; isOld: boolean; error: Error | null } {
  const navigate = useNavigate();
  const search = useDeferredValue(typed);
  const { data: tags = [], error, isPending, isPlaceholderData } = useQuery(tagChoiceQuery(search));
  const { data: trends = [] } = useQuery(sheetsQuery);
  const { data: statistics = [] } = useQuery(sheetsOfQuery('statistics'));
  const { data: samples = [] } = useQuery(sheetsOfQuery('samples'));
  const entries = useMemo(
    () =>
      entriesFor(
        typed,
        { tags, sheets: [...trends, ...statistics, ...samples], pages: PAGES, actions },
        { onTag, onPath: (path) => void navigate(path) },
      ),
    [typed, tags, trends, statistics, samples, actions, onTag, navigate],
  );
  return { entries, isOld: isPending || isPlaceholderData || search !== typed, error };
}

/** A group of a listbox: the element for it that the library makes is none. */
function Group({ name, entries }: { name: string; entries: ReactNode }): ReactElement {
  return (
    <Box component="li" role="group" aria-label={name} sx={{ listStyle: 'none' }}>
      <Typography aria-hidden variant="caption" sx={{ color: 'text.secondary', px: 2, pt: 1 }}>
        {name}
      </Typography>
      <Box component="ul" role="none" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {entries}
      </Box>
    </Box>
  );
}

function EntryLines({ entry }: { entry: Entry }): ReactElement {
  return (
    <Box sx={{ minWidth: 0, textAlign: 'left' }}>
      <Typography noWrap variant="body2">
        {entry.name}
      </Typography>
      {entry.detail !== '' && (
        <Typography noWrap variant="caption" sx={{ color: 'text.secondary' }}>
          {entry.detail}
        </Typography>
      )}
    </Box>
  );
}
