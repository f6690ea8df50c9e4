/** A figure of one piece of equipment; a click says how it was made, and opens its trend. */
import { Box, Button, ButtonBase, Popover, Typography } from '@mui/material';
import { useContext, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { VERDICTS } from '../../../entities/stats/verdicts';
import { fill } from '../../../domain/fill';
import { isoText, type Span } from '../../../domain/time';
import type { Charted } from '../drilldown/ControlPanel';
import { GapIsSaid } from '../sheet/SharedGap';
import { cellText, type Mark, type Member, type Sheet } from '../sheet/lanes';
import { numberText, statLabel } from '../../../entities/stats/labels';
import type { Line } from '../sheet/state';
import { Explained } from '../../../entities/Explained';
import { qualityNote } from '../../../entities/figureTexts';

interface CellFigureProps {
  mark: Mark;
  line: Line;
  member: Member;
  window: Pick<Sheet['window'], 'start_us' | 'end_us'>;
  beside: boolean;
  /** The same tag of all pieces of equipment. */
  sisters: readonly string[];
  onChart: (charted: Charted) => void;
}

export function CellFigure(props: CellFigureProps): ReactElement {
  const { mark, line, member, window, beside, sisters, onChart } = props;
  // What is explained stays the window that was clicked on, while a live sheet goes on.
  const [opened, setOpened] = useState<{ anchor: HTMLElement; range: Span } | null>(null);
  const { cell, name } = mark;
  const { tag } = cell;
  const saidForAll = useContext(GapIsSaid);
  const doubt = cell.doubtful && !saidForAll ? ' ?' : '';
  const text = `${cellText(cell, line.stat, member.decimals)}${doubt}`;
  if (tag == null || cell.value == null) {
    return (
      <Typography component="span" title={whyNot(mark)} variant="body2" sx={{ color: 'text.secondary' }}>
        –
      </Typography>
    );
  }
  const odd =
    cell.place !== 'normal' && cell.position !== undefined && cell.place !== 'nothing to compare with';
  const broken = brokenText(mark);
  const off = odd || broken !== '';
  const difference = differenceText(cell.difference, line, member);
  const now = { startUs: Number(window.start_us), endUs: Number(window.end_us) };
  const range = opened?.range ?? now;
  return (
    <>
      <ButtonBase
        title={
          cell.quality === 'Good' || cell.good == null ? undefined : qualityNote(cell.quality, cell.good)
        }
        onClick={(event) => setOpened({ anchor: event.currentTarget, range: now })}
        sx={{
          typography: 'body2',
          fontFamily: 'inherit',
          px: 0.5,
          py: 0.25,
          flexDirection: 'column',
          alignItems: 'flex-end',
        }}
      >
        <Box
          component="span"
          sx={UNSEEN}
        >{`${[name, member.name, statLabel(line.stat)].filter(Boolean).join(', ')}: `}</Box>
        <Box component="span" sx={{ fontWeight: off ? 700 : 400 }}>
          {text}
        </Box>
        <Box component="span" sx={odd ? OFF : UNSEEN}>
          {VERDICTS[cell.place]}
        </Box>
        {broken !== '' && (
          <Box component="span" sx={OFF}>
            {broken}
          </Box>
        )}
        {beside && (
          <Box component="span" sx={{ typography: 'caption', color: 'text.secondary' }}>
            {difference}
          </Box>
        )}
      </ButtonBase>
      <Popover
        open={opened !== null}
        anchorEl={opened?.anchor ?? null}
        onClose={() => setOpened(null)}
        slotProps={{ paper: { role: 'dialog', 'aria-label': common.howItWasMade } }}
      >
        <Box sx={{ p: 2, width: 400, maxWidth: '90vw' }}>
          <Typography variant="subtitle2" sx={{ mb: 1 }}>
            {name} {member.name}
          </Typography>
          <Explained uid={tag} archive="" stat={line.stat} range={range} />
          <Typography variant="caption" sx={{ color: 'text.secondary', mt: 1 }}>
            {placeText(mark)}
          </Typography>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1 }}>
            <Button size="small" component={Link} to={trendOf([tag], range)}>
              {wording.itsTrend}
            </Button>
            <Button
              size="small"
              component={Link}
              to={trendOf([tag, ...sisters.filter((uid) => uid !== tag)], range)}
            >
              {wording.trendOfAll}
            </Button>
            <Button
              size="small"
              component={Link}
              to={lastShiftsOf(tag, line.stat)}
              onClick={() => setOpened(null)}
            >
              {wording.last7Shifts}
            </Button>
            <Button
              size="small"
              onClick={() => {
                onChart({ tag, name: `${name} ${member.name}`.trim(), stat: line.stat, range });
                setOpened(null);
              }}
            >
              {wording.controlChart}
            </Button>
          </Box>
        </Box>
      </Popover>
    </>
  );
}

const OFF = { typography: 'caption', color: 'error.main', whiteSpace: 'nowrap' } as const;

/** For those who listen: what the place in the table says to the eye. */
const UNSEEN = {
  position: 'absolute',
  width: 1,
  height: 1,
  overflow: 'hidden',
  clipPath: 'inset(50%)',
  whiteSpace: 'nowrap',
} as const;

/** The very window, held: what is seen is what was summed up. */
function trendOf(tags: readonly string[], range: Span): string {
  const params = new URLSearchParams({
    tags: tags.slice(0, 32).join(','),
    from: isoText(range.startUs),
    to: isoText(range.endUs),
    scale: 'fit',
  });
  return `/trends?${params.toString()}`;
}

/** The same figure shift by shift. */
function lastShiftsOf(tag: string, stat: string): string {
  const params = new URLSearchParams({ form: 'stretches', tag, stat, ...LAST_SHIFTS });
  return `/statistics?${params.toString()}`;
}

const LAST_SHIFTS = { per: 'shift', window: 'last 7 shift' };

/** Which limit of its class the figure breaks. Where the limits are what is normal, its place says so already. */
function brokenText({ cell }: Mark): string {
  if (cell.limits == null || cell.limits.broken === '') return '';
  if (cell.band?.low === cell.limits.low || cell.band?.high === cell.limits.high) return '';
  return cell.limits.broken === 'low' ? wording.belowLimit : wording.aboveLimit;
}

function placeText({ cell }: Mark): string {
  const { band } = cell;
  if (band == null) return VERDICTS[cell.place];
  const from =
    band.learnt_from === 0 ? 'set' : fill(wording.median445MadOfValue, { value: band.learnt_from });
  const far =
    cell.position == null
      ? ''
      : fill(wording.positionHalfWidthsFromItsCentre, { position: Math.abs(cell.position).toFixed(1) });
  return fill(wording.placeFarNormalLowToHigh, {
    place: VERDICTS[cell.place],
    far,
    low: band.low.toPrecision(5),
    high: band.high.toPrecision(5),
    from,
  });
}

function differenceText(difference: number | null | undefined, line: Line, member: Member): string {
  if (difference == null) return wording.noFigureBefore;
  const text = numberText(Math.abs(difference), line.stat, member.decimals);
  return `${difference < 0 ? '−' : '+'}${text}`;
}

function whyNot({ cell }: Mark): string {
  if (cell.tag == null) return wording.itHasNoSuchTag;
  return cell.refused?.problem ?? common.noUsableSamples;
}
