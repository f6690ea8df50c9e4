/** Where the plant lives: zone, first weekday, shifts. */
import { Add, Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { useFieldArray } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import { type Plant } from '../../../platform/client';
import { ApiError } from '../../../platform/errors';
import { Choice } from '../../../ui';
import { FormFields, fieldsOf, ListProblem, shapes } from '../../../ui/form';
import { Page } from '../common/Page';
import { StoredEnd } from '../common/StoredForm';
import { useStoredForm } from '../common/useStoredForm';
import { plantQuery, changePlant } from '../../../entities/plant';

const WEEKDAYS = [
  wording.monday,
  wording.tuesday,
  wording.wednesday,
  wording.thursday,
  wording.friday,
  wording.saturday,
  wording.sunday,
];
const FIRST_START = 6 * 60;
const NEW: Plant = { name: '', zone: 'UTC', first_weekday: 1, shifts: [] };

export function PlantPage(): ReactElement {
  const { data, error } = useQuery(plantQuery);
  const unset = error instanceof ApiError && error.status === 404;
  return (
    <Page title={common.plant} note={wording.itsZoneAndShiftsDecideWhat}>
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
        aria-label={common.plant}
        noValidate
        onSubmit={stored.onSubmit}
        sx={{ display: 'grid', gap: 2, maxWidth: 420 }}
      >
        <Fields.Text name="name" label={common.name} />
        <Fields.Text name="zone" label={wording.timeZoneIana} placeholder={wording.europeRome} />
        <Fields.Part<number> name="first_weekday">
          {({ value, onChange, problem }) => (
            <Choice
              label={wording.aWeekBeginsOn}
              value={String(value)}
              options={WEEKDAYS.map((label, i) => ({ value: String(i + 1), label }))}
              onChange={(day) => onChange(Number(day))}
              problem={problem}
            />
          )}
        </Fields.Part>
        <Typography variant="subtitle2">{wording.shifts}</Typography>
        {shifts.fields.map((shift, i) => (
          <Box key={shift.id} sx={{ display: 'flex', gap: 2, alignItems: 'flex-end' }}>
            <Fields.Text name={`shifts.${i}.name`} label={fill(wording.shiftNumber, { number: i + 1 })} />
            <Fields.Clock name={`shifts.${i}.start_minute`} label={wording.beginsAt} />
            <IconButton
              size="small"
              aria-label={fill(wording.takeOutShiftNumber, { number: i + 1 })}
              onClick={() => shifts.remove(i)}
            >
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
            {wording.addAShift}
          </Button>
        </Box>
        <ListProblem name="shifts" />
        <StoredEnd stored={stored} save={common.save} said={wording.saved} />
      </Box>
    </FormFields>
  );
}
