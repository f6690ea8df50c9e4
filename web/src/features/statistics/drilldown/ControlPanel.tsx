/** The control chart of a figure over stretches of the window. */
import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { TimeChart } from '../../../chart';
import { useThemeChoice } from '../../../ui/themeContext';
import { clockText, lengthText, SECOND, type Span } from '../../../domain/time';
import { useSize } from '../../../platform/useSize';
import { Told } from '../../../ui';
import { brokenOf, chartPens, type Chart, type Control } from './control';
import { statLabel } from '../../../entities/stats/labels';
import { HeadChoice } from '../sheet/HeadChoice';
import { CHARTS, controlQuery, type ChartKind } from '../../../entities/statistics';

/** What is charted. */
export interface Charted {
  tag: string;
  name: string;
  stat: string;
  range: Span;
}

interface ControlPanelProps {
  charted: Charted;
  zone: string;
  onClose: () => void;
}

const KINDS: Record<ChartKind, string> = {
  individuals: wording.singleValuesAndMovingRange,
  means: wording.meansAndRangesOfFive,
  ewma: wording.movingAverageWeight03,
  cusum: wording.cumulativeSums,
};

export function ControlPanel({ charted, zone, onClose }: ControlPanelProps): ReactElement {
  const [chart, setChart] = useState<ChartKind>('individuals');
  const [before, setBefore] = useState(false);
  const { tag, stat, range, name } = charted;
  const { data, error } = useQuery(controlQuery({ tag, stat, range, chart, before }));
  return (
    <Box
      component="section"
      aria-label={wording.controlChart}
      sx={{ borderTop: 1, borderColor: 'divider', bgcolor: 'background.paper', px: 2, py: 1 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 1 }}>
        <Typography component="h2" variant="h2" sx={{ mr: 'auto' }}>
          {name}, {statLabel(stat)}
          {data === undefined
            ? ''
            : ` ${fill(wording.ofEachLength, { length: lengthText(stretchOf(data)) })}`}
        </Typography>
        <HeadChoice
          label={wording.kindOfChart}
          value={chart}
          options={CHARTS}
          words={(one) => KINDS[one]}
          onChange={setChart}
        />
        <Button size="small" aria-pressed={before} onClick={() => setBefore(!before)}>
          {before ? wording.limitsFromTheWindowBefore : wording.limitsFromThisWindow}
        </Button>
        <Button size="small" onClick={onClose}>
          {common.close}
        </Button>
      </Box>
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {error === null && data !== undefined && <Charts found={data} zone={zone} />}
    </Box>
  );
}

function stretchOf(found: Control): number {
  const [first, second] = found.starts_us.map(Number);
  return (second ?? Number(found.window.end_us)) - (first ?? 0);
}

function Charts({ found, zone }: { found: Control; zone: string }): ReactElement {
  const [host, setHost] = useState<HTMLElement | null>(null);
  const { width } = useSize(host);
  const broken = brokenOf(found);
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 1fr) 260px' }, gap: 2 }}>
      <Box ref={setHost} data-testid="control-charts">
        {width > 0 &&
          found.charts.map((chart, i) => (
            <OneChart
              key={chart.name}
              chart={chart}
              found={found}
              zone={zone}
              width={width}
              last={i === found.charts.length - 1}
            />
          ))}
      </Box>
      <Box sx={{ typography: 'caption', maxHeight: 260, overflow: 'auto' }}>
        {broken.length === 0 ? (
          <Told>{wording.noRuleViolations}</Told>
        ) : (
          <Box component="ul" aria-label={wording.ruleViolations} sx={{ listStyle: 'none', m: 0, p: 0 }}>
            {broken.map((one) => (
              <li key={`${one.chart}${one.atUs}`}>
                {clockText(one.atUs, zone, SECOND)} {one.chart}: {one.words}
              </li>
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}

interface OneChartProps {
  chart: Chart;
  found: Control;
  zone: string;
  width: number;
  last: boolean;
}

function OneChart({ chart, found, zone, width, last }: OneChartProps): ReactElement {
  const { tokens } = useThemeChoice();
  const [startUs, endUs] = [Number(found.window.start_us), Number(found.window.end_us)];
  const pens = useMemo(
    () => chartPens(chart, found.starts_us.map(Number), endUs, tokens),
    [chart, found, endUs, tokens],
  );
  const { ink, quiet, surface, rule } = tokens;
  const inks = useMemo(() => ({ ink, quiet, surface, rule }), [ink, quiet, surface, rule]);
  return (
    <>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {chart.name}
        {found.unit === '' ? '' : `, ${found.unit}`}
      </Typography>
      <TimeChart
        startUs={startUs}
        endUs={endUs}
        zone={zone}
        width={width}
        pens={pens}
        height={last ? 130 : 110}
        scaleOf={pens[2]}
        showTimes={last}
        ink={inks}
      />
    </>
  );
}
