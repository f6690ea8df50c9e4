/** The lanes of a sheet: a figure of all equipment on one scale, with the band of what is normal behind. */
import { Box, ButtonBase, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { CellFigure } from '../table/CellFigure';
import type { Charted } from '../drilldown/ControlPanel';
import { limitsOf, shareOf, unitText, type Lane, type Mark, type Sheet } from './lanes';
import { numberText, statLabel } from '../../../entities/stats/labels';

interface LanesProps {
  lanes: readonly Lane[];
  equipment: readonly string[];
  window: Sheet['window'];
  /** Each figure has one of the window before beside it. */
  beside: boolean;
  onChart: (charted: Charted) => void;
  onDrilldown: (lane: Lane) => void;
}

export function Lanes({ lanes, equipment, window, beside, onChart, onDrilldown }: LanesProps): ReactElement {
  return (
    <Box
      component="table"
      aria-label={wording.figuresOfAllEquipment}
      sx={{
        typography: 'body2',
        width: '100%',
        borderCollapse: 'collapse',
        '& th': { fontWeight: 400 },
        '& thead th': {
          typography: 'caption',
          position: 'sticky',
          top: 0,
          zIndex: 2,
          bgcolor: 'background.default',
          color: 'text.secondary',
          py: 0.5,
        },
        '& tbody tr': { borderTop: 1, borderColor: 'divider' },
        '& td, & th': { px: 1 },
      }}
    >
      <thead>
        <tr>
          <Box component="th" scope="col" sx={{ textAlign: 'left', pl: '16px !important' }}>
            {wording.figureValuesAreMissing}
          </Box>
          <Box component="th" scope="col" sx={{ width: '34%', minWidth: 200 }}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <span>{wording.farBelow}</span>
              <span>{wording.normal}</span>
              <span>{wording.farAbove}</span>
            </Box>
          </Box>
          {equipment.map((name) => (
            <Box component="th" key={name} scope="col" sx={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
              {name}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {lanes.map((lane) => (
          <Row
            key={`${lane.line.member}~${lane.line.stat}`}
            lane={lane}
            window={window}
            beside={beside}
            onChart={onChart}
            onDrilldown={onDrilldown}
          />
        ))}
      </tbody>
    </Box>
  );
}

interface RowProps {
  lane: Lane;
  window: Sheet['window'];
  beside: boolean;
  onChart: (charted: Charted) => void;
  onDrilldown: (lane: Lane) => void;
}

function Row({ lane, window, beside, onChart, onDrilldown }: RowProps): ReactElement {
  const { line, member, marks } = lane;
  const unit = unitText(
    line.stat,
    marks.map(({ cell }) => cell),
  );
  const sisters = member.tags.filter((uid) => uid !== null);
  return (
    <tr data-testid="lane">
      <Box component="th" scope="row" sx={{ textAlign: 'left', pl: '16px !important', py: 0.25 }}>
        <ButtonBase
          aria-label={fill(wording.lookCloserAtNameStatLabel, {
            name: member.name,
            statLabel: statLabel(line.stat),
          })}
          onClick={() => onDrilldown(lane)}
          sx={{
            font: 'inherit',
            textAlign: 'left',
            '&:hover, &:focus-visible': { textDecoration: 'underline' },
          }}
        >
          {member.name}
        </ButtonBase>
        <Typography component="span" variant="caption" sx={{ display: 'block', color: 'text.secondary' }}>
          {statLabel(line.stat)}
          {unit === '' ? '' : `, ${unit}`}
          {normalText(lane)}
          {limitsText(lane)}
        </Typography>
      </Box>
      <td>
        <Track marks={marks} limits={limitsOf(lane)} />
      </td>
      {marks.map((mark) => (
        <Box component="td" key={mark.name} sx={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
          <CellFigure
            mark={mark}
            line={line}
            member={member}
            window={window}
            beside={beside}
            sisters={sisters}
            onChart={onChart}
          />
        </Box>
      ))}
    </tr>
  );
}

const NEVER_BELOW_ZERO = new Set([
  ...['Deviation', 'StandardDeviationPopulation', 'Range', 'Travel', 'Count', 'PercentGood'],
  ...['Starts', 'RisingEdges', 'DurationInStateNonZero'],
]);

/** The band in numbers. */
function normalText({ line, member, marks }: Lane): string {
  const bands = marks.flatMap(({ cell }) => cell.band ?? []);
  const [first] = bands;
  if (first === undefined || bands.some((one) => one.low !== first.low || one.high !== first.high)) return '';
  const text = (value: number): string => numberText(value, line.stat, member.decimals);
  const low = NEVER_BELOW_ZERO.has(line.stat) && first.low < 0;
  return low
    ? ` ${fill(wording.normalUpToText, { text: text(first.high) })}`
    : ` ${fill(wording.normalFromTo, { text: text(first.low), text2: text(first.high) })}`;
}

/** The limits of the class in numbers. */
function limitsText(lane: Lane): string {
  const limits = limitsOf(lane);
  if (limits === null) return '';
  const text = (one: number | null): string =>
    one === null ? '' : numberText(one, lane.line.stat, lane.member.decimals);
  const [low, high] = [text(limits.low), text(limits.high)];
  if (low !== '' && high !== '') return ` ${fill(wording.limitsLowToHigh, { low, high })}`;
  return low === '' ? ` ${fill(wording.limitUpToHigh, { high })}` : ` ${fill(wording.limitFromLow, { low })}`;
}

const HEIGHT = 30;

interface TrackProps {
  marks: readonly Mark[];
  limits: ReturnType<typeof limitsOf>;
}

/** Where each figure lies. What is normal is a thin stroke; what is not carries its equipment's number. Limits are
 * dashed strokes over the whole height. */
function Track({ marks, limits }: TrackProps): ReactElement {
  return (
    <Box
      aria-hidden
      data-testid="track"
      sx={{ position: 'relative', height: HEIGHT, mx: 1.25, '& > *': { position: 'absolute' } }}
    >
      <Box sx={{ left: 0, right: 0, top: HEIGHT / 2, borderTop: 1, borderColor: 'divider' }} />
      {marks.some(({ cell }) => cell.band != null) && (
        <>
          <Box sx={{ left: '37.5%', right: '37.5%', top: 4, bottom: 4, bgcolor: 'action.selected' }} />
          <Box
            sx={{
              left: '50%',
              top: 4,
              bottom: 4,
              borderLeft: 1,
              borderColor: 'text.secondary',
              opacity: 0.4,
            }}
          />
        </>
      )}
      {[shareOf(limits?.low_at ?? null), shareOf(limits?.high_at ?? null)].map(
        (share, place) =>
          share !== null && (
            <Box
              key={place}
              data-testid="limit"
              sx={{ top: 0, bottom: 0, ml: '-1px', borderLeft: '2px dashed', borderColor: 'text.secondary' }}
              style={{ left: `${share * 100}%` }}
            />
          ),
      )}
      {marks.map((mark) => mark.at !== null && <Point key={mark.name} mark={mark} at={mark.at} />)}
    </Box>
  );
}

function Point({ mark, at }: { mark: Mark; at: number }): ReactElement {
  const left = `${at * 100}%`;
  if (mark.cell.place === 'normal') {
    return (
      <Box
        sx={{ top: 7, width: 2, height: HEIGHT - 14, ml: '-1px', bgcolor: 'text.primary', opacity: 0.55 }}
        style={{ left }}
      />
    );
  }
  return (
    <Box
      sx={{
        typography: 'caption',
        top: HEIGHT / 2 - 9,
        ml: '-9px',
        width: 18,
        height: 18,
        borderRadius: mark.beyond ? '3px' : '50%',
        bgcolor: 'error.main',
        color: 'background.paper',
        fontWeight: 700,
        lineHeight: '18px',
        textAlign: 'center',
        zIndex: 1,
      }}
      style={{ left }}
    >
      {shortName(mark.name)}
    </Box>
  );
}

/** The last word of a name, as far as there is room: 3 of Line 3. */
function shortName(name: string): string {
  return (name.split(/\s+/).at(-1) ?? name).slice(0, 2);
}
