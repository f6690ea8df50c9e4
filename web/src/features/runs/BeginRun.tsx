/** A person begins a run; it lasts until it is ended. */
import { Box, Button } from '@mui/material';
import type { ReactElement } from 'react';
import * as wording from 'texts/runs.json';
import { Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';

interface NewRun {
  name: string;
}
const Fields = fieldsOf<NewRun>();
const SHAPE = shapes.shape({ name: shapes.filled(wording.giveTheRunAName) });

export function BeginRun({ onBegin }: { onBegin: (name: string) => Promise<unknown> }): ReactElement {
  const begun = useSentForm<NewRun, unknown>({
    values: { name: '' },
    shape: SHAPE,
    send: ({ name }) => onBegin(name),
  });
  return (
    <FormFields of={begun}>
      <Box
        component="form"
        noValidate
        onSubmit={begun.onSubmit}
        sx={{ display: 'flex', alignItems: 'flex-end', gap: 1, flexWrap: 'wrap' }}
      >
        <Box sx={{ width: 170 }}>
          <Fields.Text name="name" label={wording.newRun} placeholder={wording.trial7} />
        </Box>
        <Button size="small" type="submit" variant="outlined" disabled={begun.busy}>
          {wording.startRun}
        </Button>
        {begun.general !== null && <Told kind="error">{begun.general}</Told>}
      </Box>
    </FormFields>
  );
}
