/** Saved statistics sheets: open one, save what is shown. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { errorText } from '../../../platform/errors';
import { FormActions, Panel, Switched, TextLine, Told } from '../../../ui';
import { statisticsSheetsQuery, addSheet, changeSheet, removeSheet } from '../../../entities/sheets';

interface SheetsPanelProps {
  /** The query of the link that shows what is shown. */
  view: string;
  onOpen: (view: string) => void;
  onClose: () => void;
}

export function SheetsPanel({ view, onOpen, onClose }: SheetsPanelProps): ReactElement {
  const { data: sheets = [], isSuccess } = useQuery(statisticsSheetsQuery);
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [own, setOwn] = useState(false);
  const [leaving, setLeaving] = useState<string | null>(null);
  const saving = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => queries.invalidateQueries({ queryKey: statisticsSheetsQuery.queryKey }),
  });
  const same = sheets.find((one) => one.name === name.trim() && one.own === own);
  const save = (): void =>
    saving.mutate(async () => {
      const body = { page: 'statistics' as const, name, folder: '', view, own };
      if (same === undefined) return addSheet(body);
      return changeSheet(same.uid, { ...body, revision: same.revision });
    });
  const remove = (uid: string): void => saving.mutate(() => removeSheet(uid));
  return (
    <Panel title="Sheets" width={300} onClose={onClose} onSubmit={save}>
      {isSuccess && sheets.length === 0 && <Told>No sheet is saved yet.</Told>}
      <Box component="ul" aria-label="Saved sheets" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {sheets.map((one) => (
          <Box component="li" key={one.uid} sx={{ display: 'flex', borderTop: 1, borderColor: 'divider' }}>
            <Button
              size="small"
              sx={{ flex: 1, justifyContent: 'flex-start', textAlign: 'left' }}
              aria-current={one.view === view ? 'true' : undefined}
              onClick={() => onOpen(one.view)}
            >
              {one.name}
              {one.own ? ' · only you' : ''}
              {one.view === view ? ' · shown' : ''}
            </Button>
            {leaving === one.uid ? (
              <Button size="small" color="error" onClick={() => remove(one.uid)}>
                Remove it
              </Button>
            ) : (
              <IconButton
                size="small"
                aria-label={`Remove ${one.name} …`}
                onClick={() => setLeaving(one.uid)}
              >
                <Close fontSize="small" />
              </IconButton>
            )}
          </Box>
        ))}
      </Box>
      <TextLine label="Save what is shown as" value={name} onChange={setName} />
      <Switched label="Only I see it" value={own} onChange={setOwn} />
      {saving.error !== null && <Told kind="error">{errorText(saving.error)}</Told>}
      <FormActions
        save={same === undefined ? 'Save' : `Save over ${same.name}`}
        busy={saving.isPending}
        disabled={name.trim() === ''}
      />
    </Panel>
  );
}
