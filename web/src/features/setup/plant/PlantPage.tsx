/** Where the plant lives: zone, first weekday, shifts. */
import { Add, Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { type Plant } from '../../../platform/client';
import { ApiError } from '../../../platform/errors';
import { Choice, FormActions, TextLine, Told, hasUnusable } from '../../../ui';
import { Page } from '../common/Page';
import { useSave } from '../common/useSave';
import { plantQuery, changePlant } from '../../../entities/plant';

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
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

function PlantForm({ plant }: { plant: Plant }): ReactElement {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(plant);
  const [starts, setStarts] = useState(plant.shifts.map((one) => clock(one.start_minute)));
  const saving = useSave(
    changePlant,
    ['name', 'zone', 'shifts'],
    () => void queries.invalidateQueries({ queryKey: ['plant'] }),
  );
  const submit = (): void =>
    saving.run({
      ...draft,
      shifts: draft.shifts.map((one, i) => ({ ...one, start_minute: minute(starts[i] ?? '') ?? 0 })),
    });
  return (
    <Box
      component="form"
      aria-label="Plant"
      onSubmit={(event) => {
        event.preventDefault();
        if (!hasUnusable(event.currentTarget)) submit();
      }}
      sx={{ display: 'grid', gap: 2, maxWidth: 420 }}
    >
      <TextLine
        label="Name"
        value={draft.name}
        onChange={(name) => setDraft({ ...draft, name })}
        problem={saving.problem('name')}
      />
      <TextLine
        label="Time zone (IANA)"
        value={draft.zone}
        placeholder="Europe/Rome"
        onChange={(zone) => setDraft({ ...draft, zone })}
        problem={saving.problem('zone')}
      />
      <Choice
        label="A week begins on"
        value={String(draft.first_weekday)}
        options={WEEKDAYS.map((label, i) => ({ value: String(i + 1), label }))}
        onChange={(value) => setDraft({ ...draft, first_weekday: Number(value) })}
      />
      <Typography sx={{ fontSize: 13, fontWeight: 700 }}>Shifts</Typography>
      {draft.shifts.map((shift, i) => (
        <Box key={i} sx={{ display: 'flex', gap: 2, alignItems: 'flex-end' }}>
          <TextLine
            label={`Shift ${i + 1}`}
            value={shift.name}
            onChange={(name) =>
              setDraft({ ...draft, shifts: draft.shifts.map((one, k) => (k === i ? { ...one, name } : one)) })
            }
          />
          <TextLine
            label="begins at"
            value={starts[i] ?? ''}
            onChange={(start) => setStarts(starts.map((one, k) => (k === i ? start : one)))}
            unusable={minute(starts[i] ?? '') === null}
            problem={minute(starts[i] ?? '') === null ? 'Write 06:00.' : undefined}
          />
          <IconButton
            size="small"
            aria-label={`Take out shift ${i + 1}`}
            onClick={() => {
              setDraft({ ...draft, shifts: draft.shifts.filter((_, k) => k !== i) });
              setStarts(starts.filter((_, k) => k !== i));
            }}
          >
            <Close sx={{ fontSize: 16 }} />
          </IconButton>
        </Box>
      ))}
      <Box>
        <Button
          size="small"
          startIcon={<Add />}
          onClick={() => {
            setDraft({ ...draft, shifts: [...draft.shifts, { name: '', start_minute: 0 }] });
            setStarts([...starts, '06:00']);
          }}
        >
          Add a shift
        </Button>
      </Box>
      {saving.problem('shifts') !== undefined && <Told kind="error">{saving.problem('shifts')}</Told>}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
      {saving.done && <Told kind="good">Saved.</Told>}
      <FormActions save="Save" busy={saving.busy} />
    </Box>
  );
}

function clock(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
}

function minute(text: string): number | null {
  const match = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(text.trim());
  return match === null ? null : Number(match[1]) * 60 + Number(match[2]);
}
