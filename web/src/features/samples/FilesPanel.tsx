/** Files of the table: at once up to a number of rows, in the background of any length. */
import { Box, Button } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Link as RouterLink } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import type { Span } from '../../domain/time';
import { askFile, fetchFile, FILE_FORMS, type FileForm } from '../../entities/samples/files';
import type { Wish } from '../../entities/samples/rows';
import { saveBlob } from '../../platform/download';
import { errorText } from '../../platform/errors';
import { Choice, Panel, Told } from '../../ui';
import { useCan } from '../../entities/plant';

interface FilesPanelProps {
  wish: Wish;
  span: Span;
  onClose: () => void;
}

const FORMS = FILE_FORMS.map((form) => ({ value: form, label: form.toUpperCase() }));

export function FilesPanel({ wish, span, onClose }: FilesPanelProps): ReactElement {
  const [form, setForm] = useState<FileForm>('csv');
  const can = useCan();
  const fetching = useMutation({
    mutationFn: () => fetchFile(wish, span, form),
    onSuccess: ({ blob, name }) => saveBlob(blob, name),
  });
  const asking = useMutation({ mutationFn: () => askFile(wish, span, form) });
  return (
    <Panel title={wording.files} width={300} onClose={onClose}>
      <Told>{wording.aFileHoldsAllRowsOfTheTable}</Told>
      <Choice label={wording.formatLabel} value={form} options={FORMS} onChange={(next) => setForm(next)} />
      <Box sx={ACTION}>
        <Button variant="outlined" disabled={fetching.isPending} onClick={() => fetching.mutate()}>
          {wording.downloadLabel}
        </Button>
        <Told>{wording.atMost100000RowsAtOnce}</Told>
        {fetching.error !== null && <Told kind="error">{errorText(fetching.error)}</Told>}
      </Box>
      {can('export') && (
        <Box sx={ACTION}>
          <Button variant="outlined" disabled={asking.isPending} onClick={() => asking.mutate()}>
            {wording.prepareInTheBackground}
          </Button>
          <Told>{wording.ofAnyLengthAWorkbookHolds}</Told>
          {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
          {asking.isSuccess && <Told>{wording.theFileIsBeingMade}</Told>}
        </Box>
      )}
      <Button component={RouterLink} to="/files" size="small" sx={{ alignSelf: 'flex-start' }}>
        {common.filesMadeInTheBackground}
      </Button>
    </Panel>
  );
}

const ACTION = { display: 'grid', justifyItems: 'start', gap: 1 } as const;
