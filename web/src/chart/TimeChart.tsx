/** The one place that knows the chart library: axes, grid and scales are its work, curves are ours. */
import { useEffect, useRef, type ReactElement } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { logTicks, niceStep, niceTicks, tickText } from '../shared/lib/format';
import { clockText, dayText, MINUTE, SECOND } from '../shared/lib/time';
import { shareOf, type ContactRow, type Pen } from './curve';
import { paintContacts, paintNumbers, paintPen, type Plot, type PlotInk } from './paint';

export const GUTTER_LEFT = 112;
export const GUTTER_RIGHT = 20;
const AXIS_HEIGHT = 40;
const PLAIN_HEIGHT = 6;

export interface TimeChartProps {
  startUs: number;
  endUs: number;
  zone: string;
  /** Size in CSS pixels. */
  width: number;
  height: number;
  pens?: readonly Pen[];
  contacts?: readonly ContactRow[];
  /** The pen whose scale the axis shows. */
  scaleOf?: Pen | undefined;
  showTimes: boolean;
  ink: PlotInk & { rule: string };
}

/** A strip of a trend: pens or contacts over a window of time. */
export function TimeChart(props: TimeChartProps): ReactElement {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const latest = useRef(props);

  useEffect(() => {
    latest.current = props;
  });

  useEffect(() => {
    if (host.current === null) return undefined;
    const made = new uPlot(options(latest), emptyData(latest.current), host.current);
    chart.current = made;
    return () => {
      made.destroy();
      chart.current = null;
    };
    // The instance lives as long as its theme and kind; all else is drawn anew in it.
  }, [props.ink, props.showTimes, props.zone]);

  useEffect(() => {
    const made = chart.current;
    if (made === null) return;
    if (made.width !== props.width || made.height !== props.height) {
      made.setSize({ width: props.width, height: props.height });
    }
    made.setData(emptyData(props), false);
    made.setScale('x', { min: props.startUs / SECOND, max: props.endUs / SECOND });
  });

  return <div ref={host} aria-hidden="true" />;
}

type Latest = Readonly<{ current: TimeChartProps }>;

function emptyData({ startUs, endUs }: TimeChartProps): uPlot.AlignedData {
  return [
    [startUs / SECOND, endUs / SECOND],
    [null, null],
  ];
}

function options(latest: Latest): uPlot.Options {
  const { ink, zone, width, height, showTimes } = latest.current;
  const look = { stroke: ink.quiet, font: '11px B612', ticks: { show: false } };
  return {
    width,
    height,
    padding: [10, GUTTER_RIGHT, showTimes ? 0 : PLAIN_HEIGHT, 0],
    legend: { show: false },
    cursor: { show: false },
    tzDate: (s) => uPlot.tzDate(new Date(s * 1000), zone),
    scales: { x: { time: true, auto: false }, y: { auto: false, range: [0, 1] } },
    series: [{}, { show: false, scale: 'y' }],
    axes: [
      {
        ...look,
        show: true,
        size: showTimes ? AXIS_HEIGHT : 0,
        space: 90,
        grid: { stroke: ink.rule, width: 1, dash: [2, 4] },
        values: (_, splits, __, ___, step) =>
          showTimes ? splits.map((s, i) => timeLabel(s, splits[i - 1], step, zone)) : splits.map(() => ''),
      },
      {
        ...look,
        stroke: () => latest.current.scaleOf?.colour ?? ink.quiet,
        size: GUTTER_LEFT,
        grid: { show: latest.current.pens !== undefined, stroke: ink.rule, width: 1 },
        splits: () => scaleTicks(latest.current).map((tick) => tick.at),
        values: () => scaleTicks(latest.current).map((tick) => tick.text),
      },
    ],
    hooks: { draw: [(u: uPlot) => paint(u, latest.current)] },
  };
}

/** The clock at each tick, and the day under the first one and at each change of the day. */
function timeLabel(s: number, before: number | undefined, stepS: number, zone: string): string {
  const us = s * SECOND;
  const clock = clockText(us, zone, stepS < 1 ? 1 : stepS < 60 ? SECOND : MINUTE);
  const day = dayText(us, zone);
  return before === undefined || dayText(before * SECOND, zone) !== day ? `${clock}\n${day}` : clock;
}

function scaleTicks({ scaleOf, height }: TimeChartProps): { at: number; text: string }[] {
  if (scaleOf === undefined) return [];
  const most = Math.max(2, Math.floor(height / 56));
  if (scaleOf.log) {
    return logTicks(scaleOf.low, scaleOf.high, most).map((value) => ({
      at: shareOf(scaleOf, value),
      text: String(Number(value.toPrecision(6))),
    }));
  }
  const span = scaleOf.high - scaleOf.low;
  const step = niceStep(span, most);
  return niceTicks(scaleOf.low, scaleOf.high, most).map((value) => ({
    at: (value - scaleOf.low) / span,
    text: tickText(value, step),
  }));
}

function paint(u: uPlot, props: TimeChartProps): void {
  const plot: Plot = {
    context: u.ctx,
    left: u.bbox.left,
    top: u.bbox.top,
    width: u.bbox.width,
    height: u.bbox.height,
    ratio: uPlot.pxRatio,
    startUs: props.startUs,
    endUs: props.endUs,
  };
  const pens = props.pens ?? [];
  // The dimmed ones first: what is selected lies on top.
  [...pens].sort((a, b) => Number(b.dimmed) - Number(a.dimmed)).forEach((pen) => paintPen(plot, pen));
  paintNumbers(plot, pens, props.ink);
  if (props.contacts !== undefined) paintContacts(plot, props.contacts, props.ink);
}
