/** Saved sheets of a page: open one, save what is shown. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../../domain/fill';
import { errorText } from '../../platform/errors';
import { FormActions, Panel, Told, Offered } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';
import { addSheet, changeSheet, removeSheet, sheetsOfQuery, type Sheet, type SheetPage } from '../sheets';
import { Needs } from '../access/Needs';

interface SavedSheetsProps {
  page: SheetPage;
  /** The query of the link that shows what is shown. */
  view: string;
  onOpen: (view: string) => void;
  onClose: () => void;
}

interface NewSheet {
  name: string;
  own: boolean;
}
const Fields = fieldsOf<NewSheet>();
const SHAPE = shapes.shape({ name: shapes.filled(common.giveTheSheetAName) });

export function SavedSheets({ page, view, onOpen, onClose }: SavedSheetsProps): ReactElement {
  const { data: sheets = [], isSuccess } = useQuery(sheetsOfQuery(page));
  const queries = useQueryClient();
  const askAnew = (): Promise<void> => queries.invalidateQueries({ queryKey: sheetsOfQuery(page).queryKey });
  const removing = useMutation({ mutationFn: removeSheet, onSuccess: askAnew });
  const saving = useSentForm<NewSheet, Sheet>({
    values: { name: '', own: false },
    shape: SHAPE,
    send: (values) => {
      const body = { page, folder: '', view, ...values };
      const same = sameIn(sheets, values);
      return same === undefined
        ? addSheet(body)
        : changeSheet(same.uid, { ...body, revision: same.revision });
    },
    onDone: askAnew,
  });
  const [name, own] = useWatch({ control: saving.form.control, name: ['name', 'own'] });
  const same = sameIn(sheets, { name, own });
  return (
    <Needs permission="save_views">
      <FormFields of={saving}>
        <Panel title={common.sheets} width={300} onClose={onClose} onSubmit={saving.onSubmit}>
          {isSuccess && sheets.length === 0 && <Told>{common.noSheetIsSavedYet}</Told>}
          <SheetList sheets={sheets} view={view} onOpen={onOpen} onRemove={removing.mutate} />
          {removing.error !== null && <Told kind="error">{errorText(removing.error)}</Told>}
          <Fields.Text name="name" label={common.saveAs} />
          <Fields.Switch name="own" label={common.privateLabel} />
          {saving.general !== null && <Told kind="error">{saving.general}</Told>}
          <FormActions
            save={same === undefined ? common.save : fill(wording.saveOverName, { name: same.name })}
            busy={saving.busy}
          />
        </Panel>
      </FormFields>
    </Needs>
  );
}

/** The sheet that saving under this name replaces. */
function sameIn(sheets: readonly Sheet[], { name, own }: NewSheet): Sheet | undefined {
  return sheets.find((one) => one.name === name.trim() && one.own === own);
}

interface SheetListProps extends Pick<SavedSheetsProps, 'view' | 'onOpen'> {
  sheets: readonly Sheet[];
  onRemove: (uid: string) => void;
}

function SheetList({ sheets, view, onOpen, onRemove }: SheetListProps): ReactElement {
  const [leaving, setLeaving] = useState<string | null>(null);
  return (
    <Box component="ul" aria-label={wording.savedSheets} sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {sheets.map((one) => (
        <Box component="li" key={one.uid} sx={{ display: 'flex', borderTop: 1, borderColor: 'divider' }}>
          <Button
            size="small"
            sx={{ flex: 1, justifyContent: 'flex-start', textAlign: 'left' }}
            aria-current={one.view === view ? 'true' : undefined}
            onClick={() => onOpen(one.view)}
          >
            {one.name}
            {one.own ? ` ${wording.privateLabel}` : ''}
            {one.view === view ? ` ${wording.shown}` : ''}
          </Button>
          <Offered>
            {leaving === one.uid ? (
              <Button size="small" color="error" onClick={() => onRemove(one.uid)}>
                {wording.removeIt}
              </Button>
            ) : (
              <IconButton
                size="small"
                aria-label={fill(wording.removeName, { name: one.name })}
                onClick={() => setLeaving(one.uid)}
              >
                <Close fontSize="small" />
              </IconButton>
            )}
          </Offered>
        </Box>
      ))}
    </Box>
  );
}
