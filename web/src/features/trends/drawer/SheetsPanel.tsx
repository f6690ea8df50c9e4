/** Saved sheets: open one, save what is shown, go over to the same sheet of another line. */
import { Box, Button, ButtonBase, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useNavigate } from 'react-router';
import { errorText } from '../../../platform/errors';
import { Choice, CopyButton, Panel, Removal, Switched, TextLine, Told } from '../../../ui';
import { helpersOf } from '../model/looks';
import { documentText, readDocument } from '../model/document';
import { viewOnlyText, type Allowed, type TrendState } from '../model/state';
import { sheetsQuery, addSheet, changeSheet, removeSheet, type Sheet } from '../../../entities/sheets';
import { windowParams } from '../../../domain/windows';
import { findSisters } from '../../../entities/tags';

interface SheetsPanelProps {
  state: TrendState;
  /** Uids of the pens, also before any were chosen. */
  uids: readonly string[];
  /** The equipment that all pens belong to, or nothing. */
  line: string;
  onOpen: (view: string, sheet: string) => void;
  onSwap: (others: ReadonlyMap<string, string>) => void;
  onSaved: (sheet: string) => void;
  onClose: () => void;
}

export function SheetsPanel(props: SheetsPanelProps): ReactElement {
  const { state, uids, line, onOpen, onSwap, onSaved, onClose } = props;
  const { data: sheets = [], isSuccess } = useQuery(sheetsQuery);
  const queries = useQueryClient();
  const opened = sheets.find((one) => one.uid === state.sheet);
  const [name, setName] = useState('');
  const [folder, setFolder] = useState(line);
  const [own, setOwn] = useState(false);
  const view = documentText({ ...state, tags: [...uids] });
  const changed = opened !== undefined && documentText(readDocument(opened.view)) !== view;
  const saving = useMutation({
    mutationFn: (work: () => Promise<string | null>) => work(),
    onSuccess: async (uid) => {
      await queries.invalidateQueries({ queryKey: sheetsQuery.queryKey });
      if (uid !== null) onSaved(uid);
    },
  });
  const saveNew = (): void =>
    saving.mutate(async () => {
      const body = { page: 'trends' as const, name, folder, view, own };
      return (await addSheet(body)).uid;
    });
  const save = (): void =>
    saving.mutate(async () => {
      if (opened === undefined) return null;
      const { name: its, folder: where, own: alone, revision } = opened;
      const body = { page: 'trends' as const, name: its, folder: where, own: alone, view, revision };
      return (await changeSheet(opened.uid, body)).uid;
    });
  const remove = (): void =>
    saving.mutate(async () => {
      if (opened !== undefined) await removeSheet(opened.uid);
      return null;
    });
  const folders = [...new Set(sheets.map((one) => one.folder))];
  return (
    <Panel title="Sheets" onClose={onClose} onSubmit={saveNew} width={300}>
      {opened !== undefined && (
        <Box sx={{ display: 'grid', gap: 1 }}>
          <Typography variant="body2">
            <strong>{opened.name}</strong>{' '}
            {changed ? 'was changed by you; the saved one stays as it is.' : 'as it was saved.'}
          </Typography>
          <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
            <Button size="small" variant="outlined" disabled={!changed || saving.isPending} onClick={save}>
              Save over it
            </Button>
            <Button size="small" disabled={!changed} onClick={() => onOpen(opened.view, opened.uid)}>
              As it was
            </Button>
            <Removal key={opened.uid} what={opened.name} busy={saving.isPending} onRemove={remove}>
              The sheet goes{opened.own ? '' : ' for everybody'}; what it shows stays.
            </Removal>
          </Box>
        </Box>
      )}
      {opened !== undefined && (
        <Beside opened={opened} others={sheets.filter((one) => one.uid !== opened.uid)} state={state} />
      )}
      {saving.error !== null && <Told kind="error">{errorText(saving.error)}</Told>}
      {isSuccess && sheets.length === 0 && <Told>No sheet is saved yet.</Told>}
      {folders.map((one) => (
        <Box key={one} component="section" aria-label={one === '' ? 'Sheets without a folder' : one}>
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            {one === '' ? 'No folder' : one}
          </Typography>
          {sheets
            .filter((sheet) => sheet.folder === one)
            .map((sheet) => (
              <ButtonBase
                key={sheet.uid}
                onClick={() => onOpen(sheet.view, sheet.uid)}
                aria-current={sheet.uid === state.sheet}
                sx={{
                  typography: 'body2',
                  display: 'block',
                  width: '100%',
                  textAlign: 'left',
                  px: 1,
                  py: 0.5,
                  bgcolor: sheet.uid === state.sheet ? 'action.selected' : undefined,
                }}
              >
                {sheet.name}
                {sheet.own && (
                  <Box component="span" sx={{ color: 'text.secondary', ml: 1 }}>
                    mine
                  </Box>
                )}
              </ButtonBase>
            ))}
        </Box>
      ))}
      <TextLine
        label="Save what is shown as"
        value={name}
        placeholder="Drying, last shift"
        onChange={setName}
      />
      <TextLine label="in the folder" value={folder} placeholder="none" onChange={setFolder} />
      <Switched label="for me alone" value={own} onChange={setOwn} />
      <Box>
        <Button
          size="small"
          type="submit"
          variant="contained"
          disabled={name.trim() === '' || saving.isPending}
        >
          Save
        </Button>
      </Box>
      <LookOnly state={{ ...state, tags: [...uids] }} />
      {line !== '' && <Swap line={line} uids={uids} helpers={helpersOf(state.looks, uids)} onSwap={onSwap} />}
    </Panel>
  );
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
      label={`Show ${opened.name} beside`}
      value=""
      options={[
        { value: '', label: 'choose a sheet' },
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
      aria-label="A link to look at only"
      sx={{ display: 'grid', gap: 0.5, borderTop: 1, borderColor: 'divider', pt: 1.5 }}
    >
      <TextLine label="A link to look at only" value={link} onChange={() => undefined} />
      <Switched
        label="whose window may be moved"
        value={allow.includes('time')}
        onChange={(on) => toggle('time', on)}
      />
      <Switched
        label="whose samples may be saved"
        value={allow.includes('files')}
        onChange={(on) => toggle('files', on)}
      />
      <Box>
        <CopyButton word="Copy the link" variant="outlined" text={() => link} />
      </Box>
    </Box>
  );
}

interface SwapProps {
  line: string;
  uids: readonly string[];
  /** Tags of their scales and guide lines. */
  helpers: readonly string[];
  onSwap: (others: ReadonlyMap<string, string>) => void;
}

/** The same pens of sister equipment. */
function Swap({ line, uids, helpers, onSwap }: SwapProps): ReactElement {
  const [target, setTarget] = useState('');
  const asking = useMutation({
    mutationFn: (equipment: string) => findSisters([...uids, ...helpers], equipment),
    onSuccess: (pairs) => {
      const found = pairs.filter((pair): pair is [string, string] => pair[1] !== null);
      if (found.some(([uid]) => uids.includes(uid))) onSwap(new Map(found));
    },
  });
  const missing = asking.data?.filter(([uid, sister]) => sister === null && uids.includes(uid)).length ?? 0;
  return (
    <Box sx={{ display: 'grid', gap: 1, borderTop: 1, borderColor: 'divider', pt: 1.5 }}>
      <TextLine
        label={`The same pens as of ${line}, but of`}
        value={target}
        placeholder="Line 2"
        onChange={setTarget}
      />
      <Box>
        <Button
          size="small"
          variant="outlined"
          disabled={target.trim() === '' || asking.isPending}
          onClick={() => asking.mutate(target)}
        >
          Go over to it
        </Button>
      </Box>
      {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
      {missing > 0 && (
        <Told kind="error">
          {missing} of {uids.length} pens {missing === 1 ? 'has' : 'have'} no tag of that name there.
        </Told>
      )}
    </Box>
  );
}
