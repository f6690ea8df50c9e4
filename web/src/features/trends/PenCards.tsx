import { Close, TuneOutlined, Visibility, VisibilityOff } from '@mui/icons-material';
import { Box, ButtonBase, IconButton, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { valueText, type Scalar } from '../../shared/lib/format';
import { lengthText } from '../../shared/lib/time';
import type { Scale, Trace } from './model';

export interface PenCard {
  trace: Trace;
  colour: string;
  scale: Scale | null;
  hidden: boolean;
  selected: boolean;
  value: Scalar;
  /** How the value came: live, recorded, interpolated, held, or why there is none. */
  note: string;
  bad: boolean;
}

export interface PenCardsProps {
  cards: readonly PenCard[];
  onSelect: (uid: string) => void;
  onHide: (uid: string) => void;
  onRemove: (uid: string) => void;
  /** Opens what can be changed of a pen. */
  onEdit: (uid: string) => void;
}

/** The pens as compact cards: value, scale, how the tag is recorded. */
export function PenCards({ cards, ...on }: PenCardsProps): ReactElement {
  return (
    <Box component="ul" aria-label="Pens" sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {cards.map((card) => (
        <Card key={card.trace.tag.uid} card={card} {...on} />
      ))}
    </Box>
  );
}

function Card({
  card,
  onSelect,
  onHide,
  onRemove,
  onEdit,
}: { card: PenCard } & Omit<PenCardsProps, 'cards'>): ReactElement {
  const { trace, hidden, selected, scale } = card;
  const { tag, name } = trace;
  return (
    <Box
      component="li"
      data-testid="pen-card"
      sx={{
        position: 'relative',
        display: 'flex',
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
        <Badge card={card} />
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Box sx={line}>
            <Typography noWrap sx={{ fontSize: 13 }}>
              {name}
            </Typography>
            <Box sx={{ flexShrink: 0 }}>
              <Typography
                component="span"
                data-testid="pen-value"
                sx={{ fontSize: 18, fontWeight: 700, color: card.bad ? 'error.main' : undefined }}
              >
                {stateName(card.value, tag.states) ?? valueText(card.value, tag.decimals)}
              </Typography>
              <Typography component="span" sx={{ fontSize: 11, color: 'text.secondary', ml: 0.5 }}>
                {tag.unit}
              </Typography>
            </Box>
          </Box>
          <Box sx={line}>
            <Typography noWrap sx={{ fontSize: 11, color: 'text.secondary' }}>
              {scale === null
                ? recordedText(trace)
                : `${scaleText(scale, tag.decimals)} · ${recordedText(trace)}`}
            </Typography>
            <Typography
              noWrap
              sx={{ fontSize: 11, flexShrink: 0, color: card.bad ? 'error.main' : 'text.secondary' }}
            >
              {card.note}
            </Typography>
          </Box>
        </Box>
      </ButtonBase>
      <Box
        className="tools"
        sx={{
          position: 'absolute',
          right: 4,
          top: 2,
          display: 'flex',
          bgcolor: 'background.paper',
          borderRadius: 1,
        }}
      >
        <IconButton size="small" sx={tool} aria-label={`Change ${name}`} onClick={() => onEdit(tag.uid)}>
          <TuneOutlined sx={icon} />
        </IconButton>
        <IconButton
          size="small"
          sx={tool}
          aria-label={`${hidden ? 'Show' : 'Hide'} ${name}`}
          onClick={() => onHide(tag.uid)}
        >
          {hidden ? <VisibilityOff sx={icon} /> : <Visibility sx={icon} />}
        </IconButton>
        <IconButton size="small" sx={tool} aria-label={`Remove ${name}`} onClick={() => onRemove(tag.uid)}>
          <Close sx={icon} />
        </IconButton>
      </Box>
    </Box>
  );
}

const icon = { fontSize: 16 };
const line = { display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', gap: 1 } as const;
const tool = { width: 24, height: 24, p: 0 };

function Badge({ card }: { card: PenCard }): ReactElement {
  const { number } = card.trace;
  return (
    <Box
      sx={{
        width: 20,
        height: 20,
        flexShrink: 0,
        borderRadius: number > 0 ? '50%' : '3px',
        bgcolor: card.colour,
        color: 'background.paper',
        fontSize: 11,
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
  const words = `${low.toFixed(digits)} to ${high.toFixed(digits)}`;
  return `${words}${log ? ' log' : ''}${staleUs === undefined ? '' : ' (limits not valid)'}`;
}

function recordedText({ tag }: Trace): string {
  const first = tag.recorded[0];
  if (first === undefined) return 'not recorded';
  return first.mode === 'periodic' ? `every ${lengthText(first.interval_us)}` : 'on change';
}

/** The name of a state, where its tag gives it one. */
function stateName(value: Scalar, states: Readonly<Record<string, string>>): string | undefined {
  return typeof value === 'number' ? states[String(value)] : undefined;
}
