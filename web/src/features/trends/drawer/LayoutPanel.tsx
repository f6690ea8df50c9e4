/** How a sheet is laid out: what of it is shown, and its strips with their titles, pens, heights, places and windows. */
import { Box, Button, Checkbox, FormControlLabel, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { HOUR, SECOND, type Span } from '../../../domain/time';
import { Choice, DurationLine, Panel, Switched, TextLine, Told } from '../../../ui';
import type { Display } from '../model/display';
import {
  changed,
  copiedStrip,
  editable,
  kept,
  MOST_STRIPS,
  movedStrip,
  ONE_STRIP,
  pensOf,
  withPen,
  type OwnWindow,
  type Strip,
} from '../model/layout';
import { DisplayFields } from './DisplayFields';

interface LayoutPanelProps {
  large: boolean;
  onLarge: (large: boolean) => void;
  display: Display;
  onDisplay: (change: Partial<Display>) => void;
  strips: readonly Strip[];
  pens: readonly { uid: string; name: string }[];
  span: Span;
  /** The strips made others, from what they are by then: two changes may come before the page is drawn anew. */
  onStrips: (change: (strips: readonly Strip[]) => Strip[]) => void;
  onClose: () => void;
}

const WINDOWS = [
  { value: 'rail', label: wording.theTimeRail },
  { value: 'now', label: wording.aLengthUntilNow },
  { value: 'before', label: wording.aLengthUntilBeforeTheSheets },
  { value: 'moment', label: wording.aLengthThatStandsStill },
];

export function LayoutPanel({
  strips,
  pens,
  span,
  onStrips,
  onClose,
  ...whole
}: LayoutPanelProps): ReactElement {
  const all = editable(strips);
  const tell = (change: (now: readonly Strip[]) => readonly Strip[]): void =>
    onStrips((now) => kept(change(editable(now))));
  const shown = pensOf(
    all,
    pens.map((pen) => pen.uid),
  );
  const add = (beside: boolean): void =>
    tell((now) => {
      const first = now.some((one) => one.pens === null) ? now : [ONE_STRIP, ...now];
      return [...first, { ...ONE_STRIP, beside, pens: beside ? null : [] }];
    });
  return (
    <Panel title={wording.layout} onClose={onClose} width={300}>
      <Box component="details">
        <Typography component="summary" variant="h3" sx={{ cursor: 'pointer', mb: 1 }}>
          {wording.wholeSheet}
        </Typography>
        <DisplayFields {...whole} />
      </Box>
      <Told>{wording.stripsLieUnderEachOtherOr}</Told>
      {all.map((strip, place) => (
        <StripForm
          key={place}
          strip={strip}
          place={place}
          pens={pens}
          span={span}
          shown={shown[place] ?? []}
          only={all.length === 1}
          onChange={(change) => tell((now) => changed(now, place, change))}
          onPen={(uid, on) => tell((now) => withPen(now, place, uid, on))}
          onMove={(by) => tell((now) => movedStrip(now, place, by))}
          onCopy={all.length < MOST_STRIPS ? () => tell((now) => copiedStrip(now, place)) : null}
          onRemove={() => tell((now) => now.filter((_, i) => i !== place))}
        />
      ))}
      {all.length < MOST_STRIPS && (
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button size="small" variant="outlined" onClick={() => add(false)}>
            {wording.stripBelow}
          </Button>
          <Button size="small" variant="outlined" onClick={() => add(true)}>
            {wording.stripBeside}
          </Button>
        </Box>
      )}
    </Panel>
  );
}

interface StripFormProps {
  strip: Strip;
  place: number;
  pens: LayoutPanelProps['pens'];
  shown: readonly string[];
  span: Span;
  only: boolean;
  onChange: (change: Partial<Strip>) => void;
  onPen: (uid: string, on: boolean) => void;
  onMove: (by: 1 | -1) => void;
  /** null: there are as many as there may be. */
  onCopy: (() => void) | null;
  onRemove: () => void;
}

function StripForm(props: StripFormProps): ReactElement {
  const { strip, place, pens, shown, span, only, onChange, onPen, onMove, onCopy, onRemove } = props;
  return (
    <Box
      component="section"
      aria-label={fill(wording.stripNumber, { number: place + 1 })}
      sx={{ display: 'grid', gap: 1, borderTop: 1, borderColor: 'divider', pt: 1 }}
    >
      <TextLine
        label={fill(wording.titleOfStripNumber, { number: place + 1 })}
        value={strip.title}
        placeholder={common.none}
        onChange={(title) => onChange({ title })}
      />
      <Switched
        label={wording.showsAllPensThatNoOther}
        value={strip.pens === null}
        onChange={(all) => onChange({ pens: all ? null : [...shown] })}
      />
      {strip.pens !== null && (
        <Box sx={{ display: 'flex', flexDirection: 'column' }}>
          {pens.map((pen) => (
            <FormControlLabel
              key={pen.uid}
              control={
                <Checkbox
                  size="small"
                  sx={{ py: 0.25 }}
                  checked={shown.includes(pen.uid)}
                  onChange={(_, on) => onPen(pen.uid, on)}
                />
              }
              label={pen.name}
            />
          ))}
        </Box>
      )}
      <Switched
        label={wording.markersOnItsCurves}
        value={strip.markers}
        onChange={(markers) => onChange({ markers })}
      />
      <Switched label={wording.gridOfThisStrip} value={strip.grid} onChange={(grid) => onChange({ grid })} />
      <OwnWindowFields strip={strip} span={span} onChange={onChange} />
      {place > 0 && (
        <Switched
          label={wording.besideTheStripBeforeIt}
          value={strip.beside}
          onChange={(beside) => onChange({ beside })}
        />
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
        <Button size="small" sx={{ minWidth: 0 }} disabled={place === 0} onClick={() => onMove(-1)}>
          {common.up}
        </Button>
        <Button size="small" sx={{ minWidth: 0 }} disabled={only} onClick={() => onMove(1)}>
          {common.down}
        </Button>
        {onCopy !== null && (
          <Button size="small" onClick={onCopy}>
            {fill(wording.copyStripNumber, { number: place + 1 })}
          </Button>
        )}
        <Button size="small" color="error" disabled={only} onClick={onRemove}>
          {fill(wording.removeStripNumber, { number: place + 1 })}
        </Button>
      </Box>
    </Box>
  );
}

type WindowFieldsProps = Pick<StripFormProps, 'strip' | 'span' | 'onChange'>;

/** What the strip follows. */
function OwnWindowFields({ strip, span, onChange }: WindowFieldsProps): ReactElement {
  const { window } = strip;
  const lengthUs = window?.lengthUs ?? HOUR;
  const choose = (next: string): void =>
    onChange({ window: next === 'rail' ? null : { lengthUs, end: endOf(next, span) } });
  return (
    <>
      <Choice
        label={wording.itsWindowFollows}
        value={window?.end.kind ?? 'rail'}
        options={WINDOWS}
        onChange={choose}
      />
      {window !== null && (
        <DurationLine
          label={common.length}
          value={window.lengthUs}
          onChange={(us) => us >= SECOND && onChange({ window: { ...window, lengthUs: us } })}
        />
      )}
      {window?.end.kind === 'before' && (
        <DurationLine
          label={wording.itEndsBeforeTheSheetDoes}
          value={window.end.us}
          onChange={(us) => us >= 0 && onChange({ window: { ...window, end: { kind: 'before', us } } })}
        />
      )}
      {window?.end.kind === 'moment' && (
        <Typography variant="caption" sx={{ color: 'text.secondary' }}>
          {wording.dragAndZoomItOnThe}
        </Typography>
      )}
    </>
  );
}

function endOf(kind: string, span: Span): OwnWindow['end'] {
  if (kind === 'moment') return { kind, atUs: Math.round(span.endUs) };
  return kind === 'before' ? { kind, us: HOUR } : { kind: 'now' };
}
