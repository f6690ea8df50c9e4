/** Notes pinned to moments: those in the window, and a new one. */
import { Box, Button, ButtonBase, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { momentText, type Span } from '../../../domain/time';
import { FormActions, InnerForm, Panel, Removal, TextLine, Told, Offered } from '../../../ui';
import { fieldsOf, FormFields, InnerFields, shapes, useSentForm } from '../../../ui/form';
import { NOTES, notesQuery, type Note, addNote, changeNote, removeNote } from '../../../entities/notes';
import { Needs } from '../../../entities/access/Needs';

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

interface NewNote {
  text: string;
  tag: string;
}
const Fields = fieldsOf<NewNote>();
const SHAPE = shapes.shape({ text: shapes.filled(wording.typeTheNote) });

export function NotesPanel(props: NotesPanelProps): ReactElement {
  const { span, startUs, endUs, tags, zone, onGo, onClose } = props;
  const [search, setSearch] = useState('');
  const { data: notes = [] } = useQuery(notesQuery(span, search));
  const askAnew = useAskAnew();
  const pinning = useSentForm<NewNote, Note>({
    values: { text: '', tag: '' },
    shape: SHAPE,
    send: ({ text, tag }) =>
      addNote({
        start_us: String(Math.round(startUs)),
        end_us: endUs === null ? null : String(Math.round(endUs)),
        tag: tag === '' ? null : tag,
        text,
      }),
    onDone: askAnew,
    asks: true,
  });
  const removing = useMutation({ mutationFn: removeNote, onSuccess: askAnew });
  const when =
    momentText(startUs, zone) +
    (endUs === null ? '' : ` ${fill(wording.toMoment, { moment: momentText(endUs, zone) })}`);
  return (
    <Needs permission="annotate">
      <FormFields of={pinning}>
        <Panel title={wording.notes} onClose={onClose} onSubmit={pinning.onSubmit} width={300}>
          <Fields.Text
            name="text"
            label={wording.newNote}
            multiline
            hint={fill(wording.atWhenKeysAAndB, { when })}
          />
          <Fields.Choice
            name="tag"
            label={common.on}
            options={[
              { value: '', label: wording.allPens },
              ...tags.map((one) => ({ value: one.uid, label: one.name })),
            ]}
          />
          <FormActions save={wording.addNote} busy={pinning.busy} />
          {pinning.general !== null && <Told kind="error">{pinning.general}</Told>}
          {removing.error !== null && <Told kind="error">{errorText(removing.error)}</Told>}
          <InnerForm>
            <TextLine label={wording.findInTheNotesOfThis} value={search} onChange={setSearch} />
          </InnerForm>
          {notes.length === 0 && <Told>{wording.noNoteInThisWindow}</Told>}
          {notes.map((note) => (
            <Entry
              key={note.uid}
              note={note}
              zone={zone}
              onGo={() => onGo(note)}
              onRemove={() => removing.mutate(note.uid)}
            />
          ))}
        </Panel>
      </FormFields>
    </Needs>
  );
}

function useAskAnew(): () => Promise<void> {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: [NOTES] });
}

interface EntryProps {
  note: Note;
  zone: string;
  onGo: () => void;
  onRemove: () => void;
}

function Entry({ note, zone, onGo, onRemove }: EntryProps): ReactElement {
  const [isEdited, setEdited] = useState(false);
  return (
    <Box component="article" sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <ButtonBase onClick={onGo} sx={{ typography: 'caption', color: 'text.secondary' }}>
        {momentText(Number(note.start_us), zone)} · {note.person}
        {note.tag_name == null ? '' : ` · ${note.tag_name}`}
      </ButtonBase>
      {isEdited ? (
        <Edited note={note} onClose={() => setEdited(false)} />
      ) : (
        <>
          <Typography variant="body2" sx={{ whiteSpace: 'pre-wrap' }}>
            {note.text}
          </Typography>
          <Box sx={{ display: 'flex', gap: 0.5, flexWrap: 'wrap' }}>
            <Offered>
              {' '}
              <Button size="small" onClick={() => setEdited(true)}>
                {wording.edit}
              </Button>
            </Offered>
            <Removal what={wording.thisNote} word={common.remove} onRemove={onRemove}>
              {wording.theNoteGoesForEverybody}
            </Removal>
          </Box>
        </>
      )}
    </Box>
  );
}

interface NoteText {
  text: string;
}
const TextFields = fieldsOf<NoteText>();

function Edited({ note, onClose }: { note: Note; onClose: () => void }): ReactElement {
  const askAnew = useAskAnew();
  const saving = useSentForm<NoteText, Note>({
    values: { text: note.text },
    shape: SHAPE,
    send: ({ text }) => (text === note.text ? note : changeNote(note.uid, text)),
    onDone: async () => {
      await askAnew();
      onClose();
    },
    stays: true,
    asks: true,
  });
  return (
    <InnerFields of={saving}>
      <TextFields.Text name="text" label={common.text} multiline autoFocus />
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        <Button size="small" disabled={saving.busy} onClick={saving.send}>
          {common.save}
        </Button>
        <Button size="small" onClick={onClose}>
          {common.cancel}
        </Button>
      </Box>
    </InnerFields>
  );
}
