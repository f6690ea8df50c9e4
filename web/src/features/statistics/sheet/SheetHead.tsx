/** What the sheet is of: the kind of equipment, the window of all its figures, what counts as normal. */
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
  ['lines', 'Figures', <TuneOutlined key="lines" />],
  ['sheets', 'Sheets', <FolderOutlined key="sheets" />],
  ['reports', 'Reports', <ArticleOutlined key="reports" />],
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
  lanes: 'Equipment beside its kind',
  tags: 'Tags by statistics',
  stretches: 'Statistics over time',
};

const NORM_WORDS: Record<Norm, string> = {
  fleet: 'normal: as the others of its kind',
  earlier: 'normal: as in the 12 windows before',
  limits: 'normal: the limits of the class',
  range: 'normal: the range of the tag',
};

const BESIDE_WORDS: Record<Beside, string> = {
  none: 'this window alone',
  before: 'beside the window before',
  day: 'beside a day earlier',
  week: 'beside a week earlier',
};

/** In a table there is no kind of equipment to learn from. */
function normWords(norm: Norm, form: Form): string {
  if (norm === 'fleet' && form === 'tags') return 'normal: not said';
  if ((norm === 'fleet' || norm === 'earlier') && form === 'stretches')
    return 'normal: as the other stretches';
  return NORM_WORDS[norm];
}

function kindWords(name: string, kinds: readonly Kind[]): string {
  const pieces = kinds.find((one) => one.name === name)?.equipment.length ?? 0;
  return `${name} · ${pieces === 1 ? 'alone' : `${pieces} of a kind`}`;
}

export function SheetHead(props: SheetHeadProps): ReactElement {
  const { kinds, kind, state, opened, onChange, onOpen } = props;
  const lanes = state.form === 'lanes';
  return (
    <Box sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 1 }}>
        <Typography component="h1" variant="h1">
          Statistics
        </Typography>
        <HeadChoice
          label="What is shown"
          value={state.form}
          options={FORMS}
          words={(form) => FORM_WORDS[form]}
          onChange={(form) => onChange({ form, order: null })}
        />
        {lanes && kind !== null && (
          <HeadChoice
            label="Equipment of the kind"
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
            {state.sorted ? 'Order: what stands out first' : 'Order: as chosen'}
          </Button>
        )}
        {state.form !== 'stretches' && (
          <HeadChoice
            label="Beside another window"
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
          label="What is normal"
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
      {goesOn(state.window) ? 'Live' : 'Held'}
      {name === '' ? '' : ` · ${name}`} · {spanText(shown.window, zone)}
      {shown.beside == null ? '' : ` · beside ${spanText(shown.beside, zone)}`}
    </Typography>
  );
}

function spanText(window: Sheet['window'], zone: string): string {
  const [start, end] = [Number(window.start_us), Number(window.end_us)];
  const day = dayText(start, zone);
  const until = `${dayText(end, zone) === day ? '' : `${dayText(end, zone)} `}${clockText(end, zone, MINUTE)}`;
  return `${day} ${clockText(start, zone, MINUTE)} to ${until}, ${lengthText(end - start)}`;
}
