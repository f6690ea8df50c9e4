/** All readings, and over them what each rule keeps. */
import { Box, Typography } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { useQuery } from '@tanstack/react-query';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { extent, GUTTER_LEFT, GUTTER_RIGHT, TimeChart, type Columns, type Pen } from '../../../chart';
import { useThemeChoice } from '../../../ui/themeContext';
import { penColour } from '../../../ui/tokens';
import { useSize } from '../../../platform/useSize';
import { plantQuery } from '../../../entities/plant';
import type { Rehearsal } from '../../../entities/loggers';

const HEIGHT = 240;
const NAMES = [wording.allReadings, wording.keptByRule1, wording.keptByRule2];

export function RehearseChart({ found }: { found: Rehearsal }): ReactElement {
  const { tokens } = useThemeChoice();
  const { data: plant } = useQuery(plantQuery);
  const [host, setHost] = useState<HTMLElement | null>(null);
  const { width } = useSize(host);
  const start = Number(found.start_us);
  const end = Number(found.end_us);
  const curves = useMemo(
    () => [found.readings_curve, ...found.rehearsals.map((one) => one.curve)].map(columns),
    [found],
  );
  const colours = [tokens.quiet, penColour(tokens, 0), penColour(tokens, 1)];
  const all = curves[0] ?? columns({ t_us: [], v: [] });
  const range = extent(all, start, end) ?? { low: 0, high: 1 };
  const margin = (range.high - range.low) * 0.05 || 0.5;
  const { stepped } = found;
  const pens = curves.map((found, i): Pen => ({
    id: String(i),
    number: i + 1,
    colour: colours[i] ?? tokens.ink,
    stepped,
    columns: found,
    heldUntilUs: end,
    low: range.low - margin,
    high: range.high + margin,
    width: 1.6,
    draw: 'line' as const,
    guide: false,
    lines: [],
    log: false,
    label: '',
    dimmed: i === 0,
    alpha: 1,
    states: {},
    dash: false,
    axis: 'left',
    gaps: [],
  }));
  const ink = useMemo(
    () => ({
      ink: tokens.ink,
      quiet: tokens.quiet,
      surface: tokens.surface,
      rule: tokens.rule,
    }),
    [tokens],
  );
  return (
    <Box>
      <Box
        ref={setHost}
        data-testid="rehearse-chart"
        sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider' }}
      >
        {width > 0 && (
          <TimeChart
            startUs={start}
            endUs={end}
            zone={plant?.zone ?? 'UTC'}
            width={width}
            height={HEIGHT}
            pens={pens}
            scaleOf={pens[0]}
            showTimes
            ink={ink}
          />
        )}
      </Box>
      {found.rehearsals.map((one, i) => (
        <Missed
          key={i}
          rule={i + 1}
          edges={one.missed_edges}
          times={one.missed_us.map(Number)}
          place={(us) => `calc(${GUTTER_LEFT}px + ${(us - start) / (end - start)} * (100% - ${GUTTERS}px))`}
          colour={colours[i + 1] ?? tokens.ink}
        />
      ))}
      <Box sx={{ display: 'flex', gap: 2, mt: 0.5 }}>
        {pens.map((pen, i) => (
          <Typography key={pen.id} variant="caption">
            <Box
              component="span"
              sx={{
                borderTop: `3px solid ${pen.colour}`,
                display: 'inline-block',
                width: 16,
                mr: 0.75,
                verticalAlign: 'middle',
              }}
            />
            {pen.number}: {NAMES[i]}
          </Typography>
        ))}
      </Box>
    </Box>
  );
}

const GUTTERS = GUTTER_LEFT + GUTTER_RIGHT;

interface MissedProps {
  rule: number;
  edges: number;
  /** The first of them, µs. */
  times: readonly number[];
  /** Where a time lies. */
  place: (us: number) => string;
  colour: string;
}

/** The edges that a rule does not show, each as a stroke below its time. */
function Missed({ rule, edges, times, place, colour }: MissedProps): ReactElement | null {
  if (edges === 0) return null;
  const more = edges > times.length ? fill(wording.theFirstCountAreMarked, { count: times.length }) : '';
  return (
    <Box data-testid={`missed-${rule}`} sx={{ mt: 0.5 }}>
      <Typography variant="caption">
        {fill(wording.ruleRuleMissesEdges, { rule, edges })} {fill(wording.edges, { edges })}
        {more}
      </Typography>
      <Box aria-hidden sx={{ position: 'relative', height: 10 }}>
        {times.map((us) => (
          <Box
            key={us}
            sx={{ position: 'absolute', top: 0, bottom: 0, width: 2, ml: '-1px' }}
            style={{ left: place(us), backgroundColor: colour }}
          />
        ))}
      </Box>
    </Box>
  );
}

function columns(curve: Rehearsal['readings_curve']): Columns {
  return {
    t: Float64Array.from(curve.t_us, Number),
    v: Float64Array.from(curve.v, (value) => (value === null ? NaN : Number(value))),
    q: new Uint16Array(curve.t_us.length),
  };
}
