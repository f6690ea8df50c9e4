/** Notes pinned to moments: those in the window, and a new one. */
import { Box, Button, ButtonBase, TextField, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { momentText, type Span } from '../../../domain/time';
import { Choice, InnerForm, Panel, Removal, TextLine, Told } from '../../../ui';
import { NOTES, notesQuery, type Note, addNote, changeNote, removeNote } from '../../../entities/notes';

interface NotesPanelProps {
  span: Span;
  /** Where a new note goes: the range between the cursors, the cursor, or the window's end. */
  startUs: number;
  endUs: number | null;
  tags: readonly { uid: string; name: string }[];
  zone: string;
  onGo: (note: Note) => void;
  onClose: () => void;
}

export function NotesPanel(props: NotesPanelProps): ReactElement {
  const { span, startUs, endUs, tags, zone, onGo, onClose } = props;
  const [search, setSearch] = useState('');
  const [text, setText] = useState('');
  const [tag, setTag] = useState('');
  const { data: notes = [] } = useQuery(notesQuery(span, search));
  const queries = useQueryClient();
  const writing = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => queries.invalidateQueries({ queryKey: [NOTES] }),
  });
  const pin = (): void => {
    if (text.trim() === '') return;
    writing.mutate(async () => {
      const body = {
        start_us: String(Math.round(startUs)),
        end_us: endUs === null ? null : String(Math.round(endUs)),
        tag: tag === '' ? null : tag,
        text,
      };
      await addNote(body);
      setText('');
    });
  };
  const when = momentText(startUs, zone) + (endUs === null ? '' : ` to ${momentText(endUs, zone)}`);
  return (
    <Panel title="Notes" onClose={onClose} onSubmit={pin} width={300}>
      <TextField
        multiline
        minRows={2}
        size="small"
        variant="standard"
        label="A new note"
        value={text}
        onChange={(event) => setText(event.target.value)}
        helperText={`At ${when}. Keys A and B move it.`}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <Choice
        label="on"
        value={tag}
        options={[
          { value: '', label: 'all pens' },
          ...tags.map((one) => ({ value: one.uid, label: one.name })),
        ]}
        onChange={setTag}
      />
      <Box>
        <Button size="small" type="submit" variant="contained" disabled={text.trim() === ''}>
          Pin it
        </Button>
      </Box>
      {writing.error !== null && <Told kind="error">{errorText(writing.error)}</Told>}
      <InnerForm>
        <TextLine label="Find in the notes of this window" value={search} onChange={setSearch} />
      </InnerForm>
      {notes.length === 0 && <Told>No note in this window.</Told>}
      {notes.map((note) => (
        <Entry
          key={note.uid}
          note={note}
          zone={zone}
          onGo={() => onGo(note)}
          onWrite={(next) => writing.mutate(() => changeNote(note.uid, next))}
          onRemove={() => writing.mutate(() => removeNote(note.uid))}
        />
      ))}
    </Panel>
  );
}

interface EntryProps {
  note: Note;
  zone: string;
  onGo: () => void;
  onWrite: (text: string) => void;
  onRemove: () => void;
}

function Entry({ note, zone, onGo, onWrite, onRemove }: EntryProps): ReactElement {
  const [draft, setDraft] = useState<string | null>(null);
  const keep = (): void => {
    if (draft !== null && draft !== note.text) onWrite(draft);
    setDraft(draft === null ? note.text : null);
  };
  return (
    <Box component="article" sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <ButtonBase onClick={onGo} sx={{ typography: 'caption', color: 'text.secondary' }}>
        {momentText(Number(note.start_us), zone)} · {note.person}
        {note.tag_name == null ? '' : ` · ${note.tag_name}`}
      </ButtonBase>
      {draft === null ? (
        <Typography variant="body2" sx={{ whiteSpace: 'pre-wrap' }}>
          {note.text}
        </Typography>
      ) : (
        <InnerForm onEnter={keep}>
          <TextLine label="Text" value={draft} onChange={setDraft} />
        </InnerForm>
      )}
      <Box sx={{ display: 'flex', gap: 0.5, flexWrap: 'wrap' }}>
        <Button size="small" onClick={keep}>
          {draft === null ? 'Edit' : 'Save'}
        </Button>
        <Removal what="this note" word="Remove" onRemove={onRemove}>
          The note goes for everybody.
        </Removal>
      </Box>
    </Box>
  );
}
