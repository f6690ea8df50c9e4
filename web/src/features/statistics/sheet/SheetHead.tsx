/** What the sheet is of: the kind of equipment, the window of all its figures, what counts as normal. */
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { goesOn, windowName } from '../../../domain/windows';
import { ArticleOutlined, FileDownloadOutlined, FolderOutlined, TuneOutlined } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { clockText, dayText, lengthText, MINUTE } from '../../../domain/time';
import { HeadChoice } from './HeadChoice';
import type { Kind, Sheet } from './lanes';
import { BESIDES, FORMS, NORMS, type Beside, type Form, type Norm, type SheetState } from './state';

export type Opened = 'lines' | 'sheets' | 'reports';

const PANELS: readonly (readonly [Opened, string, ReactElement])[] = [
  ['lines', common.figures, <TuneOutlined key="lines" />],
  ['sheets', common.sheets, <FolderOutlined key="sheets" />],
  ['reports', wording.reports, <ArticleOutlined key="reports" />],
];

interface SheetHeadProps {
  kinds: readonly Kind[];
  kind: Kind | null;
  state: SheetState;
  /** The windows that are shown. */
  shown: Pick<Sheet, 'window' | 'beside'> | undefined;
  zone: string;
  /** The panel that is open. */
  opened: Opened | null;
  onChange: (change: Partial<SheetState>) => void;
  onOpen: (panel: Opened) => void;
  onSave: () => void;
}

const FORM_WORDS: Record<Form, string> = {
  lanes: wording.equipmentBesideItsKind,
  tags: wording.tagsByStatistics,
  stretches: wording.statisticsOverTime,
};

const NORM_WORDS: Record<Norm, string> = {
  fleet: wording.normalAsTheOthersOfIts,
  earlier: wording.normalAsInThe12Windows,
  limits: wording.normalTheLimitsOfTheClass,
  range: wording.normalTheRangeOfTheTag,
};

const BESIDE_WORDS: Record<Beside, string> = {
  none: wording.thisWindowAlone,
  before: wording.besideTheWindowBefore,
  day: wording.besideADayEarlier,
  week: wording.besideAWeekEarlier,
};

/** In a table there is no kind of equipment to learn from. */
function normWords(norm: Norm, form: Form): string {
  if (norm === 'fleet' && form === 'tags') return wording.normalNotSaid;
  if ((norm === 'fleet' || norm === 'earlier') && form === 'stretches')
    return wording.normalAsTheOtherStretches;
  return NORM_WORDS[norm];
}

function kindWords(name: string, kinds: readonly Kind[]): string {
  const pieces = kinds.find((one) => one.name === name)?.equipment.length ?? 0;
  return `${name} · ${fill(wording.ofAKind, { pieces })}`;
}

export function SheetHead(props: SheetHeadProps): ReactElement {
  const { kinds, kind, state, opened, onChange, onOpen } = props;
  const lanes = state.form === 'lanes';
  return (
    <Box sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 1 }}>
        <Typography component="h1" variant="h1">
          {common.statistics}
        </Typography>
        <HeadChoice
          label={wording.whatIsShown}
          value={state.form}
          options={FORMS}
          words={(form) => FORM_WORDS[form]}
          onChange={(form) => onChange({ form, order: null })}
        />
        {lanes && kind !== null && (
          <HeadChoice
            label={wording.equipmentOfTheKind}
            value={kind.name}
            options={kinds.map((one) => one.name)}
            words={(name) => kindWords(name, kinds)}
            onChange={(name) => onChange({ kind: name, lines: null })}
          />
        )}
        <Box sx={{ mr: 'auto' }} />
        {lanes && (
          <Button
            size="small"
            aria-pressed={state.sorted}
            onClick={() => onChange({ sorted: !state.sorted })}
          >
            {state.sorted ? wording.orderWhatStandsOutFirst : wording.orderAsChosen}
          </Button>
        )}
        {state.form !== 'stretches' && (
          <HeadChoice
            label={wording.besideAnotherWindow}
            value={state.beside}
            options={BESIDES}
            words={(beside) => BESIDE_WORDS[beside]}
            onChange={(beside) => onChange({ beside })}
          />
        )}
        {PANELS.filter(([panel]) => lanes || panel !== 'reports').map(([panel, label, icon]) => (
          <Button
            key={panel}
            size="small"
            startIcon={icon}
            aria-pressed={opened === panel}
            onClick={() => onOpen(panel)}
          >
            {label}
          </Button>
        ))}
        <Button size="small" startIcon={<FileDownloadOutlined />} onClick={props.onSave}>
          CSV
        </Button>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 2 }}>
        <Windows {...props} />
        <HeadChoice
          label={wording.whatIsNormal}
          value={state.form === 'stretches' && state.norm === 'earlier' ? 'fleet' : state.norm}
          options={NORMS.filter((norm) => state.form !== 'stretches' || norm !== 'earlier')}
          words={(norm) => normWords(norm, state.form)}
          onChange={(norm) => onChange({ norm })}
          atEnd
        />
      </Box>
    </Box>
  );
}

/** Where the windows lie that are shown: the page may be a moment behind the time rail. */
function Windows({ state, shown, zone }: SheetHeadProps): ReactElement {
  if (shown === undefined) return <></>;
  const name = windowName(state.window);
  return (
    <Typography data-testid="sheet-window" variant="body2" sx={{ color: 'text.secondary' }}>
      {goesOn(state.window) ? common.live : wording.held}
      {name === '' ? '' : ` · ${name}`} · {spanText(shown.window, zone)}
      {shown.beside == null ? '' : ` ${fill(wording.besideSpan, { span: spanText(shown.beside, zone) })}`}
    </Typography>
  );
}

function spanText(window: Sheet['window'], zone: string): string {
  const [start, end] = [Number(window.start_us), Number(window.end_us)];
  const day = dayText(start, zone);
  const until = `${dayText(end, zone) === day ? '' : `${dayText(end, zone)} `}${clockText(end, zone, MINUTE)}`;
  return fill(wording.dayClockToUntilLength, {
    day,
    clock: clockText(start, zone, MINUTE),
    until,
    length: lengthText(end - start),
  });
}
