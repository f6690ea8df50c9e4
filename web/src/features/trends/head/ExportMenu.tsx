/** The menu of files of a trend: pictures, what is drawn, what was recorded; large ones in the background. */
import { Menu, MenuItem } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { Link as RouterLink } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { useCan } from '../../../entities/plant';
import { askExport } from '../../../entities/jobs';
import { Told } from '../../../ui';
import { exportJob } from '../model/exportJob';
import type { MenuProps } from './CompareMenu';
import { served } from '../../../platform/configuration';

export function ExportMenu({
  anchor,
  uids: tags,
  archives,
  plotWidth,
  on,
  onClose,
}: MenuProps): ReactElement {
  // What is shown when the menu is opened.
  const [span] = useState(on.rangeNow);
  const [whole] = useState(on.spanNow);
  const [utc, setUtc] = useState(false);
  const bounded = span.startUs !== whole.startUs || span.endUs !== whole.endUs;
  const where = bounded ? ` ${wording.betweenAAndB}` : '';
  const drawing = useMutation({ mutationFn: on.onPicture, onSuccess: onClose });
  const asking = useMutation({ mutationFn: askExport });
  const can = useCan();
  const inBackgroundForms = can('export') ? (['csv', 'parquet'] as const) : [];
  const inBackground = (form: 'csv' | 'parquet'): void =>
    asking.mutate(exportJob(tags, archives, span, form, utc));
  const link = (form: string, what: string): string => {
    const query = new URLSearchParams([
      ...tags.map((tag): [string, string] => ['tag', tag]),
      ...archives.map((one): [string, string] => ['archive', one]),
      ['start', String(Math.floor(span.startUs))],
      ['end', String(Math.ceil(span.endUs))],
      ['form', form],
      ['what', what],
      ['width', String(Math.max(Math.round(plotWidth), 1))],
      ...(utc ? [['utc', 'true'] as [string, string]] : []),
    ]);
    return served(`/api/series/export?${query.toString()}`);
  };
  return (
    <Menu open anchorEl={anchor} onClose={onClose}>
      {(['png', 'svg'] as const).map((kind) => (
        <MenuItem key={kind} dense onClick={() => drawing.mutate(kind)}>
          {fill(wording.pictureKind, { kind: kind.toUpperCase() })}
        </MenuItem>
      ))}
      <MenuItem
        dense
        divider
        onClick={() => {
          onClose();
          void on.onPrint();
        }}
      >
        {wording.printOrPdf}
      </MenuItem>
      {(['csv', 'xlsx', 'parquet'] as const).map((form) => (
        <MenuItem key={form} dense component="a" href={link(form, 'recorded')} onClick={onClose}>
          {fill(wording.everyRecordedSampleWhereForm, { where, form: form.toUpperCase() })}
        </MenuItem>
      ))}
      {(['csv', 'xlsx'] as const).map((form) => (
        <MenuItem key={form} dense component="a" href={link(form, 'shown')} onClick={onClose}>
          {fill(wording.whatIsDrawnWhereForm, { where, form: form.toUpperCase() })}
        </MenuItem>
      ))}
      {inBackgroundForms.map((form) => (
        <MenuItem key={form} dense disabled={asking.isPending} onClick={() => inBackground(form)}>
          {fill(wording.prepareInTheBackgroundRecordedSamples, { where, form: form.toUpperCase() })}
        </MenuItem>
      ))}
      <MenuItem dense divider component={RouterLink} to="/files">
        {common.filesMadeInTheBackground}
      </MenuItem>
      <MenuItem dense role="menuitemcheckbox" aria-checked={utc} onClick={() => setUtc(!utc)}>
        {utc ? '✓ ' : ''}
        {wording.timesInUtc}
      </MenuItem>
      {asking.isSuccess && <Told>{wording.theFileIsBeingMadeSee}</Told>}
      {asking.error !== null && <Told kind="error">{errorText(asking.error)}</Told>}
      {drawing.error !== null && <Told kind="error">{errorText(drawing.error)}</Told>}
    </Menu>
  );
}
