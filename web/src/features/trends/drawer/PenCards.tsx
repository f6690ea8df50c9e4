import { Close, EditOutlined, TuneOutlined, Visibility, VisibilityOff } from '@mui/icons-material';
import { Box, Button, ButtonBase, IconButton, Typography } from '@mui/material';
import { createContext, memo, useContext, useMemo, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { equipmentOf } from '../../../domain/equipment';
import { valueText, type Scalar } from '../../../domain/format';
import { lengthText, MINUTE, momentText } from '../../../domain/time';
import type { Tag } from '../../../platform/client';
import type { CardPart } from '../model/display';
import { shortName, type Scale, type Trace } from '../model/model';

export interface PenCard {
  trace: Trace;
  colour: string;
  /** The archive that is chosen for it; '': the fitting one. */
  archive: string;
  /** Why nothing records it at present; '': something does, or nothing should. */
  idle: string;
  scale: Scale | null;
  hidden: boolean;
  selected: boolean;
  value: Scalar;
  /** How the value came: live, recorded, interpolated, held, or why there is none. */
  note: string;
  bad: boolean;
  /** The live value, while the value is that at the cursor. */
  now?: Scalar;
  /** Tags whose values are guide lines on its scale, and what they are at present. */
  guides: readonly Tag[];
  guideValues: readonly Scalar[];
}

/** What figures are of. */
export type FigurePen = Pick<PenCard, 'trace' | 'archive' | 'colour'>;

export interface PenCardsProps {
  cards: readonly PenCard[];
  onSelect: (uid: string) => void;
  onHide: (uid: string) => void;
  onRemove: (uid: string) => void;
  onRemoveAll: () => void;
  /** A temporary tag is to stay. */
  onKeep: ((tag: Tag) => void) | null;
  /** The plant's zone. */
  zone: string;
  /** Opens where a value is written to a tag. */
  /** Null: who looks may not. */
  onWrite: ((tag: Tag) => void) | null;
  /** Opens what can be changed of a pen. */
  onEdit: (uid: string) => void;
  /** The view is only looked at. */
  fixed: boolean;
  /** What a card says below its name. */
  parts: readonly CardPart[];
}

type CardValue = Pick<PenCard, 'value' | 'note' | 'bad' | 'now' | 'guideValues'>;

/** What moves with the cursor, by uid: the rest of a card is not drawn anew for it. */
const ValuesOf = createContext<ReadonlyMap<string, CardValue>>(new Map());
const UNKNOWN: CardValue = { value: null, note: '', bad: false, guideValues: [] };

/** The pens as compact cards: value, scale, how the tag is recorded. */
export const PenCards = memo(function PenCards({ cards, onRemoveAll, ...on }: PenCardsProps): ReactElement {
  const details = useMemo(() => new Map(cards.map((card) => [card.trace.tag.uid, card])), [cards]);
  return (
    <ValuesOf.Provider value={details}>
      <Box component="ul" aria-label={wording.pens} sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {cards.map(({ trace, colour, archive, idle, scale, hidden, selected, guides }) => (
          <Card
            key={trace.tag.uid}
            trace={trace}
            colour={colour}
            archive={archive}
            idle={idle}
            scale={scale}
            hidden={hidden}
            selected={selected}
            guides={guides}
            {...on}
          />
        ))}
      </Box>
      {!on.fixed && cards.length > 1 && (
        <Button size="small" color="inherit" startIcon={<Close />} sx={{ m: 1 }} onClick={onRemoveAll}>
          {wording.removeAllPens}
        </Button>
      )}
    </ValuesOf.Provider>
  );
});

function Value({ tag }: { tag: Trace['tag'] }): ReactElement {
  const { value, bad } = useContext(ValuesOf).get(tag.uid) ?? UNKNOWN;
  return (
    <Typography
      component="span"
      data-testid="pen-value"
      variant="h1"
      sx={{ color: bad ? 'error.main' : undefined }}
    >
      {stateName(value, tag.states) ?? valueText(value, tag.decimals)}
    </Typography>
  );
}

function Note({ tag }: { tag: Trace['tag'] }): ReactElement {
  const { note, bad, now = null } = useContext(ValuesOf).get(tag.uid) ?? UNKNOWN;
  const live =
    now === null
      ? ''
      : ` ${fill(wording.nowState, { state: stateName(now, tag.states) ?? valueText(now, tag.decimals) })}`;
  return (
    <Typography noWrap variant="caption" sx={{ flexShrink: 0, color: bad ? 'error.main' : 'text.secondary' }}>
      {note}
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {live}
      </Box>
    </Typography>
  );
}

type CardProps = Omit<PenCard, keyof CardValue> & Omit<PenCardsProps, 'cards' | 'onRemoveAll'>;

const Card = memo(function Card(props: CardProps): ReactElement {
  const { trace, colour, hidden, selected, idle, guides, fixed, onSelect } = props;
  const { tag, name } = trace;
  const texts = textsOf(props);
  return (
    <Box
      component="li"
      data-testid="pen-card"
      sx={{
        position: 'relative',
        display: 'flex',
        flexWrap: 'wrap',
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: selected ? 'action.selected' : undefined,
        '& .tools': { opacity: 0 },
        '&:hover .tools, &:focus-within .tools': { opacity: 1 },
        '@media (hover: none)': { '& .tools': { opacity: 1 } },
      }}
    >
      <ButtonBase
        onClick={() => onSelect(tag.uid)}
        aria-pressed={selected}
        title={tag.description}
        sx={{
          flex: 1,
          minWidth: 0,
          px: 1.5,
          py: 0.75,
          gap: 1,
          justifyContent: 'flex-start',
          opacity: hidden ? 0.5 : 1,
        }}
      >
        <Badge number={trace.number} colour={colour} />
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Box sx={line}>
            <Typography noWrap variant="body2">
              {name}
            </Typography>
            <Box sx={{ flexShrink: 0 }}>
              <Value tag={tag} />
              <Typography component="span" variant="caption" sx={{ color: 'text.secondary', ml: 0.5 }}>
                {tag.unit}
              </Typography>
            </Box>
          </Box>
          <Box sx={line}>
            <Typography noWrap variant="caption" sx={{ color: 'text.secondary' }}>
              {texts.slice(0, IN_A_LINE).join(' · ')}
            </Typography>
            <Note tag={tag} />
          </Box>
          {texts.length > IN_A_LINE && (
            <Typography
              noWrap
              component="p"
              variant="caption"
              sx={{ color: 'text.secondary', textAlign: 'left' }}
            >
              {texts.slice(IN_A_LINE).join(' · ')}
            </Typography>
          )}
          {idle !== '' && (
            <Typography component="p" variant="caption" sx={{ textAlign: 'left' }}>
              {idle}
            </Typography>
          )}
        </Box>
      </ButtonBase>
      {!fixed && <Tools {...props} />}
      {tag.temporary_until_us != null && <Temporary {...props} />}
      {guides.length > 0 && <Guides {...props} />}
    </Box>
  );
});

/** It was added to be looked at; one click keeps it. */
function Temporary({ trace: { tag, name }, zone, fixed, onKeep }: CardProps): ReactElement {
  return (
    <Box sx={{ ...line, width: 1, pl: 5.5, pr: 1.5 }}>
      <Typography variant="caption">
        {fill(wording.temporaryUntilMoment, {
          moment: momentText(Number(tag.temporary_until_us), zone, MINUTE),
        })}
      </Typography>
      {!fixed && onKeep !== null && (
        <Button
          size="small"
          aria-label={fill(wording.keepTag, { name })}
          sx={{ py: 0 }}
          onClick={() => onKeep(tag)}
        >
          {wording.keepLabel}
        </Button>
      )}
    </Box>
  );
}

/** The tags that are guide lines on the pen's scale, with their present values; a value is written from here. */
function Guides({ trace, colour, guides, fixed, onWrite }: CardProps): ReactElement {
  const { guideValues } = useContext(ValuesOf).get(trace.tag.uid) ?? UNKNOWN;
  return (
    <Box
      component="ul"
      aria-label={fill(wording.guideLinesOfName, { name: trace.name })}
      sx={{ listStyle: 'none', width: 1, m: 0, pl: 5.5, pr: 1.5, pb: 0.5 }}
    >
      {guides.map((tag, i) => (
        <Box component="li" key={tag.uid} sx={{ ...line, alignItems: 'center' }}>
          <Box
            sx={{ width: 20, flexShrink: 0, borderTop: '2px dashed', borderColor: colour }}
            aria-hidden="true"
          />
          <Typography noWrap variant="caption" sx={{ flex: 1 }}>
            {equipmentOf(tag) === equipmentOf(trace.tag) ? shortName(tag) : tag.name}
          </Typography>
          <Typography variant="caption" data-testid="guide-value">
            {stateName(guideValues[i] ?? null, tag.states) ?? valueText(guideValues[i] ?? null, tag.decimals)}{' '}
            {tag.unit}
          </Typography>
          {tag.writable && !fixed && onWrite !== null && <WriteButton tag={tag} onWrite={onWrite} />}
        </Box>
      ))}
    </Box>
  );
}

function WriteButton({ tag, onWrite }: { tag: Tag; onWrite: (tag: Tag) => void }): ReactElement {
  const label = fill(wording.writeAValueToName, { name: tag.name });
  return (
    <IconButton size="small" sx={tool} aria-label={label} title={label} onClick={() => onWrite(tag)}>
      <EditOutlined fontSize="small" />
    </IconButton>
  );
}

function Tools({ trace, hidden, onHide, onRemove, onEdit }: CardProps): ReactElement {
  const { tag, name } = trace;
  return (
    <Box
      className="tools"
      sx={{
        position: 'absolute',
        right: 4,
        top: 2,
        display: 'flex',
        bgcolor: 'background.paper',
        borderRadius: 1,
        // Always there for fingers, so beside the value and not over it.
        '@media (hover: none)': { position: 'static', alignSelf: 'center', bgcolor: 'transparent' },
      }}
    >
      <IconButton
        size="small"
        sx={tool}
        aria-label={fill(wording.changeName, { name })}
        onClick={() => onEdit(tag.uid)}
      >
        <TuneOutlined fontSize="small" />
      </IconButton>
      <IconButton
        size="small"
        sx={tool}
        aria-label={`${hidden ? common.show : wording.hide} ${name}`}
        onClick={() => onHide(tag.uid)}
      >
        {hidden ? <VisibilityOff fontSize="small" /> : <Visibility fontSize="small" />}
      </IconButton>
      <IconButton
        size="small"
        sx={tool}
        aria-label={fill(common.removeName, { name })}
        onClick={() => onRemove(tag.uid)}
      >
        <Close fontSize="small" />
      </IconButton>
    </Box>
  );
}

const line = { display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', gap: 1 } as const;
/** So many of the chosen parts stand beside how the value came, the others below it. */
const IN_A_LINE = 2;
const tool = { width: 24, height: 24, p: 0, '@media (hover: none)': { width: 44, height: 44 } };

function Badge({ number, colour }: { number: number; colour: string }): ReactElement {
  return (
    <Box
      sx={{
        typography: 'caption',
        width: 20,
        height: 20,
        flexShrink: 0,
        borderRadius: number > 0 ? '50%' : '3px',
        bgcolor: colour,
        color: 'background.paper',
        fontWeight: 700,
        display: 'grid',
        placeItems: 'center',
      }}
    >
      {number > 0 ? number : ''}
    </Box>
  );
}

function scaleText({ low, high, log = false, staleUs }: Scale, decimals: number): string {
  const digits = Math.min(decimals, high - low >= 10 && !log ? 0 : decimals);
  const words = fill(common.lowToHigh, { low: low.toFixed(digits), high: high.toFixed(digits) });
  return `${words}${log ? ` ${wording.log}` : ''}${staleUs === undefined ? '' : ` ${wording.limitsNotValid}`}`;
}

/** What is chosen to stand below the name. */
function textsOf({ trace, scale, archive, parts }: CardProps): string[] {
  const { tag } = trace;
  const archives = [...new Set(tag.recorded.map((one) => one.archive))].join(', ');
  const texts: Record<CardPart, string> = {
    scale: scale === null ? '' : scaleText(scale, tag.decimals),
    recording: recordedText(trace),
    description: tag.description,
    equipment: tag.equipment,
    archive: archive === '' ? archives : archive,
  };
  return parts.map((part) => texts[part]).filter(Boolean);
}

function recordedText({ tag, origin, thinned }: Trace): string {
  if (origin === 'formula') return thinned ? wording.calculatedFromThinnedSamples : 'calculated';
  if (origin === 'records') return thinned ? wording.theNewestRecords : 'records';
  const first = tag.recorded[0];
  if (first === undefined) return wording.notRecordedTheLastMinutes;
  return first.mode === 'periodic'
    ? fill(wording.everyLength, { length: lengthText(first.interval_us) })
    : common.onChange;
}

/** The name of a state, where its tag gives it one. */
function stateName(value: Scalar, states: Readonly<Record<string, string>>): string | undefined {
  return typeof value === 'number' ? states[String(value)] : undefined;
}
