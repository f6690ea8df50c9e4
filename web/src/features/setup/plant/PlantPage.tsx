/** Where the plant lives: zone, first weekday, shifts. */
import { Add, Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useFieldArray } from 'react-hook-form';
import { type Plant } from '../../../platform/client';
import { ApiError } from '../../../platform/errors';
import { Choice } from '../../../ui';
import { FormFields, fieldsOf, ListProblem, shapes } from '../../../ui/form';
import { Page } from '../common/Page';
import { StoredEnd } from '../common/StoredForm';
import { useStoredForm } from '../common/useStoredForm';
import { plantQuery, changePlant } from '../../../entities/plant';

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const FIRST_START = 6 * 60;
const NEW: Plant = { name: '', zone: 'UTC', first_weekday: 1, shifts: [] };

export function PlantPage(): ReactElement {
  const { data, error } = useQuery(plantQuery);
  const unset = error instanceof ApiError && error.status === 404;
  return (
    <Page title="Plant" note="Its zone and shifts decide what a day, a week and a shift are.">
      {data !== undefined && <PlantForm plant={data} />}
      {unset && <PlantForm plant={NEW} />}
    </Page>
  );
}

const Fields = fieldsOf<Plant>();
const SHAPE = shapes.shape({ shifts: shapes.array(shapes.shape({ start_minute: shapes.clock })) });

function PlantForm({ plant }: { plant: Plant }): ReactElement {
  const queries = useQueryClient();
  const stored = useStoredForm({
    stored: null,
    valuesOf: () => plant,
    shape: SHAPE,
    save: changePlant,
    versionOf: () => null,
    onDone: () => void queries.invalidateQueries({ queryKey: ['plant'] }),
  });
  const shifts = useFieldArray({ control: stored.form.control, name: 'shifts' });
  return (
    <FormFields of={stored}>
      <Box
        component="form"
        aria-label="Plant"
        noValidate
        onSubmit={stored.onSubmit}
        sx={{ display: 'grid', gap: 2, maxWidth: 420 }}
      >
        <Fields.Text name="name" label="Name" />
        <Fields.Text name="zone" label="Time zone (IANA)" placeholder="Europe/Rome" />
        <Fields.Part<number> name="first_weekday">
          {({ value, onChange, problem }) => (
            <Choice
              label="A week begins on"
              value={String(value)}
              options={WEEKDAYS.map((label, i) => ({ value: String(i + 1), label }))}
              onChange={(day) => onChange(Number(day))}
              problem={problem}
            />
          )}
        </Fields.Part>
        <Typography variant="subtitle2">Shifts</Typography>
        {shifts.fields.map((shift, i) => (
          <Box key={shift.id} sx={{ display: 'flex', gap: 2, alignItems: 'flex-end' }}>
            <Fields.Text name={`shifts.${i}.name`} label={`Shift ${i + 1}`} />
            <Fields.Clock name={`shifts.${i}.start_minute`} label="begins at" />
            <IconButton size="small" aria-label={`Take out shift ${i + 1}`} onClick={() => shifts.remove(i)}>
              <Close fontSize="small" />
            </IconButton>
          </Box>
        ))}
        <Box>
          <Button
            size="small"
            startIcon={<Add />}
            onClick={() => shifts.append({ name: '', start_minute: FIRST_START })}
          >
            Add a shift
          </Button>
        </Box>
        <ListProblem name="shifts" />
        <StoredEnd stored={stored} save="Save" said="Saved." />
      </Box>
    </FormFields>
  );
}
