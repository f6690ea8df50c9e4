/** One sample: how it is, what stood there before, and its correction. */
import { Box, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Fragment, useState, type ReactElement } from 'react';
import { useWatch } from 'react-hook-form';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { parseNumber } from '../../domain/numbers';
import { qualityText } from '../../domain/quality';
import { momentText } from '../../domain/time';
import {
  deleteSample,
  MODIFIED,
  modifiedQuery,
  replaceSample,
  type Modified,
} from '../../entities/samples/corrections';
import { SAMPLES, type SampleCell, type SampleRow } from '../../entities/samples/rows';
import type { Tag } from '../../platform/client';
import { errorText } from '../../platform/errors';
import { Choice, FormActions, Panel, Removal, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';
import { say } from '../../ui/toasts';
import { momentOf, scalarText } from './lines';
import { Needs } from '../../entities/access/Needs';

interface SamplePanelProps {
  row: SampleRow;
  tags: readonly Tag[];
  zone: string;
  onClose: () => void;
  onDeleted: () => void;
}

/** The tags that were recorded at the time of a row. */
function recordedIn(row: SampleRow, tags: readonly Tag[]): { tag: Tag; cell: SampleCell }[] {
  const mine = row.tag === null ? tags : tags.filter(({ uid }) => uid === row.tag);
  return mine.flatMap((tag, i) => {
    const cell = row.cells[i];
    return cell?.how === 'recorded' || (cell !== undefined && row.tag !== null) ? [{ tag, cell }] : [];
  });
}

export function SamplePanel({ row, tags, zone, onClose, onDeleted }: SamplePanelProps): ReactElement {
  const recorded = recordedIn(row, tags);
  const [uid, setUid] = useState('');
  const shown = recorded.find(({ tag }) => tag.uid === uid) ?? recorded[0];
  if (shown === undefined) {
    return (
      <Panel title={momentOf(Number(row.t_us), zone)} width={320} onClose={onClose}>
        <Told>{wording.noTagWasRecordedAtThis}</Told>
      </Panel>
    );
  }
  const choice =
    recorded.length > 1 ? (
      <Choice
        label={common.tag}
        value={shown.tag.uid}
        options={recorded.map(({ tag }) => ({ value: tag.uid, label: tag.name }))}
        onChange={setUid}
      />
    ) : null;
  return (
    <OneSample
      key={`${shown.tag.uid} ${row.t_us}`}
      {...{ ...shown, row, zone, choice, onClose, onDeleted }}
    />
  );
}

interface OneSampleProps {
  tag: Tag;
  cell: SampleCell;
  row: SampleRow;
  zone: string;
  choice: ReactElement | null;
  onClose: () => void;
  onDeleted: () => void;
}

interface Correction {
  value: string;
  reason: string;
}
const Fields = fieldsOf<Correction>();

function OneSample({ tag, cell, row, zone, choice, onClose, onDeleted }: OneSampleProps): ReactElement {
  const queries = useQueryClient();
  const askAnew = async (): Promise<void> => {
    await Promise.all([SAMPLES, MODIFIED].map((kind) => queries.invalidateQueries({ queryKey: [kind] })));
  };
  const [shape] = useState(() => shapeOf(tag));
  const form = useSentForm<Correction, unknown>({
    values: { value: '', reason: '' },
    shape,
    send: ({ value, reason }) => replaceSample(tag.uid, row.t_us, valueOf(value, tag), reason.trim()),
    onDone: async () => {
      await askAnew();
      say(fill(wording.theSampleOfNameWasCorrected, { name: tag.name }));
    },
    also: { 'samples.0.v': 'value' },
    asks: true,
  });
  const reason = useWatch({ control: form.form.control, name: 'reason' });
  const deleting = useMutation({
    mutationFn: () => deleteSample(tag.uid, row.t_us, reason.trim()),
    onSuccess: async () => {
      await askAnew();
      say(fill(wording.theSampleOfNameWasDeleted, { name: tag.name }));
      onDeleted();
    },
  });
  return (
    <Needs permission="correct_history">
      <FormFields of={form}>
        <Panel title={tag.name} width={320} onClose={onClose} onSubmit={form.onSubmit}>
          {choice}
          <Said
            what={[
              [common.time, momentOf(Number(row.t_us), zone)],
              [common.value, cell.value === null ? '–' : `${scalarText(cell.value, tag)} ${tag.unit}`],
              [common.quality, cell.quality_text],
            ]}
          />
          <Earlier tag={tag} tUs={row.t_us} zone={zone} />
          <Typography component="h3" variant="h3">
            {wording.correctIt}
          </Typography>
          <NewValue tag={tag} />
          <Fields.Text name="reason" label={wording.reason} />
          {form.general !== null && <Told kind="error">{form.general}</Told>}
          <FormActions save={wording.correct} busy={form.busy} />
          {reason.trim() === '' ? (
            <Told>{wording.toDeleteTheSampleGiveA}</Told>
          ) : (
            <Removal
              what={wording.theSample}
              word={wording.deleteLabel}
              busy={deleting.isPending}
              problem={deleting.error === null ? null : errorText(deleting.error)}
              onRemove={() => deleting.mutate()}
            >
              {wording.itLeavesTheCurvesAndFigures}
            </Removal>
          )}
        </Panel>
      </FormFields>
    </Needs>
  );
}

function NewValue({ tag }: { tag: Tag }): ReactElement {
  const states = Object.entries(tag.states);
  const options = states.length > 0 ? states : tag.value_type === 'boolean' ? BOTH : [];
  if (options.length === 0)
    return <Fields.Text name="value" label={fill(wording.newValueUnit, { unit: tag.unit }).trim()} />;
  const choices = options.map(([value, label]) => ({ value, label }));
  return (
    <Fields.Choice
      name="value"
      label={wording.newValue}
      options={[{ value: '', label: wording.choose }, ...choices]}
    />
  );
}

const BOTH: [string, string][] = [
  ['1', common.on],
  ['0', common.off],
];

function shapeOf(tag: Tag): ReturnType<typeof shapes.shape> {
  const isText = tag.value_type === 'text';
  const wrong = (text: string): Record<string, string> => {
    if (text.trim() === '') return { value: wording.giveTheRightValue };
    if (/^[+-]?\d+$/.test(text.trim()) || parseNumber(text) !== null) return {};
    return { value: common.thisIsNotANumber };
  };
  return shapes.shape(
    { reason: shapes.filled(wording.sayWhyItIsKeptWith) },
    ({ value }: Correction): Record<string, string> => (isText && value !== '' ? {} : wrong(value)),
  );
}

/** As the server takes it: whole numbers as text, so that none loses a digit. */
function valueOf(text: string, tag: Tag): number | string {
  if (tag.value_type === 'float') return parseNumber(text) ?? text;
  return tag.value_type === 'text' ? text : text.trim();
}

/** What stood at this time before, and who corrected it. */
function Earlier({ tag, tUs, zone }: { tag: Tag; tUs: string; zone: string }): ReactElement | null {
  const { data: edits = [], error } = useQuery(modifiedQuery(tag.uid, Number(tUs)));
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  const found = edits.flatMap((edit) => earlierOf(edit, tUs, tag));
  if (found.length === 0) return null;
  return (
    <>
      <Typography component="h3" variant="h3">
        {wording.modifiedHistory}
      </Typography>
      <Said
        what={found.map(({ edit, before }) => [
          before,
          fill(edit.kind === 'delete' ? wording.deletedByPerson : wording.correctedByPerson, {
            person: edit.person,
            made: madeText(edit, zone),
            reason: edit.reason,
          }),
        ])}
      />
    </>
  );
}

function madeText({ created_us }: Modified, zone: string): string {
  return momentText(Number(created_us), zone);
}

/** Names, and what is said of each. */
function Said({ what }: { what: readonly (readonly [string, string])[] }): ReactElement {
  return (
    <Box
      component="dl"
      sx={{
        display: 'grid',
        gridTemplateColumns: 'auto 1fr',
        columnGap: 2,
        rowGap: 0.5,
        m: 0,
        typography: 'body2',
      }}
    >
      {what.map(([name, text], i) => (
        <Fragment key={i}>
          <Box component="dt" sx={{ color: 'text.secondary' }}>
            {name}
          </Box>
          <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere' }}>
            {text}
          </Box>
        </Fragment>
      ))}
    </Box>
  );
}

function earlierOf(edit: Modified, tUs: string, tag: Tag): { edit: Modified; before: string }[] {
  const i = edit.t_us.indexOf(tUs);
  if (i === -1) return [];
  const value = edit.v[i] ?? null;
  const before = value === null ? qualityText(edit.q[i] ?? 0) : `${scalarText(value, tag)} ${tag.unit}`;
  return [{ edit, before: before.trim() }];
}
