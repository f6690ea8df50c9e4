/** Saved sheets: open one, save what is shown, hand out a read-only link. */
import { Box, Button, ButtonBase, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import {
  Choice,
  CopyButton,
  FormActions,
  Panel,
  Removal,
  Switched,
  TextLine,
  Told,
  Offered,
} from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import { documentText, readDocument } from '../model/document';
import { viewOnlyText, type Allowed, type TrendState } from '../model/state';
import { sheetsQuery, addSheet, changeSheet, removeSheet, type Sheet } from '../../../entities/sheets';
import { windowParams } from '../../../domain/windows';
import { Needs } from '../../../entities/access/Needs';

interface SheetsPanelProps {
  state: TrendState;
  /** Uids of the pens, also before any were chosen. */
  uids: readonly string[];
  /** The equipment that all pens belong to, or nothing. */
  line: string;
  onOpen: (view: string, sheet: string) => void;
  onSaved: (sheet: string) => void;
  onClose: () => void;
}

interface NewSheet {
  name: string;
  folder: string;
  own: boolean;
}
const Fields = fieldsOf<NewSheet>();
const SHAPE = shapes.shape({ name: shapes.filled(common.giveTheSheetAName) });

export function SheetsPanel(props: SheetsPanelProps): ReactElement {
  const { state, uids, line, onOpen, onSaved, onClose } = props;
  const { data: sheets = [], isSuccess } = useQuery(sheetsQuery);
  const askAnew = useAskAnew();
  const opened = sheets.find((one) => one.uid === state.sheet);
  const view = documentText({ ...state, tags: [...uids] });
  const saving = useSentForm<NewSheet, Sheet>({
    values: { name: '', folder: line, own: false },
    shape: SHAPE,
    send: (values) => addSheet({ page: 'trends', view, ...values }),
    onDone: async (made) => {
      await askAnew();
      onSaved(made.uid);
    },
  });
  return (
    <Needs permission="save_views">
      <FormFields of={saving}>
        <Panel title={common.sheets} onClose={onClose} onSubmit={saving.onSubmit} width={300}>
          {opened !== undefined && (
            <>
              <OpenedSheet key={opened.uid} {...{ opened, view, onOpen, onSaved }} />
              <Beside opened={opened} others={sheets.filter((one) => one.uid !== opened.uid)} state={state} />
            </>
          )}
          {isSuccess && sheets.length === 0 && <Told>{common.noSheetIsSavedYet}</Told>}
          <SheetList sheets={sheets} shown={state.sheet} onOpen={onOpen} />
          <Fields.Text name="name" label={common.saveAs} placeholder={wording.dryingLastShift} />
          <Fields.Text name="folder" label={wording.folder} placeholder={common.none} />
          <Fields.Switch name="own" label={common.privateLabel} />
          {saving.general !== null && <Told kind="error">{saving.general}</Told>}
          <FormActions save={common.save} busy={saving.busy} />
          <LookOnly state={{ ...state, tags: [...uids] }} />
        </Panel>
      </FormFields>
    </Needs>
  );
}

function useAskAnew(): () => Promise<void> {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: sheetsQuery.queryKey });
}

interface OpenedSheetProps extends Pick<SheetsPanelProps, 'onOpen' | 'onSaved'> {
  opened: Sheet;
  /** What is shown now. */
  view: string;
}

/** The sheet that is open: whether it was changed, and what can be done with it. */
function OpenedSheet({ opened, view, onOpen, onSaved }: OpenedSheetProps): ReactElement {
  const askAnew = useAskAnew();
  const changed = documentText(readDocument(opened.view)) !== view;
  const saving = useMutation({
    mutationFn: () => {
      const { name, folder, own, revision } = opened;
      return changeSheet(opened.uid, { page: 'trends', name, folder, own, view, revision });
    },
    onSuccess: async (saved) => {
      await askAnew();
      onSaved(saved.uid);
    },
  });
  const removing = useMutation({ mutationFn: removeSheet, onSuccess: askAnew });
  const isBusy = saving.isPending || removing.isPending;
  const error = saving.error ?? removing.error;
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="body2">
        <strong>{opened.name}</strong> {changed ? wording.hasChangesThatAreNotSaved : wording.hasNoChanges}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Offered>
          {' '}
          <Button
            size="small"
            variant="outlined"
            disabled={!changed || isBusy}
            onClick={() => saving.mutate()}
          >
            {wording.saveChanges}
          </Button>
        </Offered>
        <Button size="small" disabled={!changed} onClick={() => onOpen(opened.view, opened.uid)}>
          {wording.revert}
        </Button>
        <Removal what={opened.name} busy={isBusy} onRemove={() => removing.mutate(opened.uid)}>
          {opened.own ? wording.theSheetGoesWhatItShows : wording.theSheetGoesForEverybodyWhatItShows}
        </Removal>
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
    </Box>
  );
}

interface SheetListProps extends Pick<SheetsPanelProps, 'onOpen'> {
  sheets: readonly Sheet[];
  /** The one that is open. */
  shown: string | null;
}

/** All sheets by their folders. */
function SheetList({ sheets, shown, onOpen }: SheetListProps): ReactElement[] {
  const folders = [...new Set(sheets.map((one) => one.folder))];
  return folders.map((folder) => (
    <Box key={folder} component="section" aria-label={folder === '' ? wording.sheetsWithoutAFolder : folder}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {folder === '' ? wording.noFolder : folder}
      </Typography>
      {sheets
        .filter((sheet) => sheet.folder === folder)
        .map((sheet) => (
          <ButtonBase
            key={sheet.uid}
            onClick={() => onOpen(sheet.view, sheet.uid)}
            aria-current={sheet.uid === shown}
            sx={{
              typography: 'body2',
              display: 'block',
              width: '100%',
              textAlign: 'left',
              px: 1,
              py: 0.5,
              bgcolor: sheet.uid === shown ? 'action.selected' : undefined,
            }}
          >
            {sheet.name}
            {sheet.own && (
              <Box component="span" sx={{ color: 'text.secondary', ml: 1 }}>
                {wording.privateLabel}
              </Box>
            )}
          </ButtonBase>
        ))}
    </Box>
  ));
}

interface BesideProps {
  opened: Sheet;
  others: readonly Sheet[];
  state: TrendState;
}

/** Two sheets on one page. */
function Beside({ opened, others, state }: BesideProps): ReactElement | null {
  const navigate = useNavigate();
  if (others.length === 0) return null;
  const go = (uid: string): void => {
    const params = new URLSearchParams([['left', opened.uid], ['right', uid], ...windowParams(state.window)]);
    void navigate(`/trends/beside?${params.toString()}`);
  };
  return (
    <Choice
      label={fill(wording.showNameBeside, { name: opened.name })}
      value=""
      options={[
        { value: '', label: wording.chooseASheet },
        ...others.map((one) => ({ value: one.uid, label: one.name })),
      ]}
      onChange={(uid) => uid !== '' && go(uid)}
    />
  );
}

/** A link for people who only look: no pen, scale or sheet can be changed with it. */
function LookOnly({ state }: { state: TrendState }): ReactElement {
  const [allow, setAllow] = useState<readonly Allowed[]>(['time']);
  const toggle = (one: Allowed, on: boolean): void =>
    setAllow(on ? [...allow, one] : allow.filter((other) => other !== one));
  const link = `${window.location.origin}${window.location.pathname}?${viewOnlyText(state, allow)}`;
  return (
    <Box
      component="section"
      aria-label={wording.readOnlyLink}
      sx={{ display: 'grid', gap: 0.5, borderTop: 1, borderColor: 'divider', pt: 1.5 }}
    >
      <TextLine label={wording.readOnlyLink} value={link} onChange={() => undefined} />
      <Switched
        label={wording.theWindowMayBeChanged}
        value={allow.includes('time')}
        onChange={(on) => toggle('time', on)}
      />
      <Switched
        label={wording.samplesMayBeExported}
        value={allow.includes('files')}
        onChange={(on) => toggle('files', on)}
      />
      <Box>
        <CopyButton word={wording.copyTheLink} variant="outlined" text={() => link} />
      </Box>
    </Box>
  );
}
