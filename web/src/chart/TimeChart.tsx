/** The one place that knows the chart library: axes, grid and scales are its work, curves are ours. */
import { memo, useEffect, useRef, type ReactElement } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { SECOND } from '../domain/time';
import type { Pen } from './curve';
import {
  axisFont,
  axisTimes,
  GUTTER_LEFT,
  GUTTER_RIGHT,
  paintStrip,
  scaleTicks,
  type TimeChartProps,
} from './strip';

const AXIS_HEIGHT = { usual: 40, large: 58 };
const PLAIN_HEIGHT = 6;
// The library's enum exists only in its types, not in what it ships.
// eslint-disable-next-line @typescript-eslint/no-unsafe-enum-assignment
const RIGHT = 1 as uPlot.Axis.Side;

/** A strip of a trend: pens or contacts over a window of time. It is drawn anew only when it shows something
 * else. */
export const TimeChart = memo(function TimeChart(props: TimeChartProps): ReactElement {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const latest = useRef(props);
  const shown = useRef('');
  const hasRight = props.rightOf !== undefined;

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
  }, [props.ink, props.showTimes, props.zone, props.gutterRight, props.large, hasRight]);

  useEffect(() => {
    const made = chart.current;
    if (made === null) return;
    if (made.width !== props.width || made.height !== props.height) {
      made.setSize({ width: props.width, height: props.height });
    }
    made.setData(emptyData(props), false);
    made.setScale('x', { min: props.startUs / SECOND, max: props.endUs / SECOND });
    // The library works the axes out anew when the window changes; another pen's scale is our matter.
    const ticks = JSON.stringify([props.scaleOf, props.rightOf].map((pen) => scaleTicks(pen, props.height)));
    if (ticks !== shown.current) made.redraw(false, true);
    shown.current = ticks;
  });

  return <div ref={host} aria-hidden="true" />;
});

type Latest = Readonly<{ current: TimeChartProps }>;

function emptyData({ startUs, endUs }: TimeChartProps): uPlot.AlignedData {
  return [
    [startUs / SECOND, endUs / SECOND],
    [null, null],
  ];
}

function options(latest: Latest): uPlot.Options {
  const {
    ink,
    zone,
    width,
    height,
    showTimes,
    rightOf,
    gutterRight = GUTTER_RIGHT,
    large = false,
  } = latest.current;
  const look = { stroke: ink.quiet, font: axisFont(large), ticks: { show: false } };
  return {
    width,
    height,
    padding: [10, rightOf === undefined ? gutterRight : 0, showTimes ? 0 : PLAIN_HEIGHT, 0],
    legend: { show: false },
    cursor: { show: false },
    tzDate: (s) => uPlot.tzDate(new Date(s * 1000), zone),
    scales: { x: { time: true, auto: false }, y: { auto: false, range: [0, 1] } },
    series: [{}, { show: false, scale: 'y' }],
    axes: [
      {
        ...look,
        show: true,
        size: showTimes ? AXIS_HEIGHT[large ? 'large' : 'usual'] : 0,
        space: large ? 140 : 90,
        grid: { stroke: ink.rule, width: 1, dash: [2, 4] },
        values: (_, splits) =>
          showTimes
            ? axisTimes(
                splits.map((at) => at * SECOND),
                zone,
              )
            : splits.map(() => ''),
      },
      {
        ...look,
        ...scaleAxis(() => latest.current.scaleOf, latest),
        size: GUTTER_LEFT,
        grid: { show: latest.current.pens !== undefined, stroke: ink.rule, width: 1 },
      },
      {
        ...look,
        ...scaleAxis(() => latest.current.rightOf, latest),
        show: rightOf !== undefined,
        side: RIGHT,
        size: gutterRight,
        // Behind the discs with the pens' numbers.
        gap: 20,
        grid: { show: false },
      },
    ],
    hooks: { draw: [(u: uPlot) => paint(u, latest.current)] },
  };
}

/** The ticks of a pen's scale, in its colour. */
function scaleAxis(penOf: () => Pen | undefined, latest: Latest): uPlot.Axis {
  const ticks = (): ReturnType<typeof scaleTicks> => scaleTicks(penOf(), latest.current.height);
  return {
    scale: 'y',
    stroke: () => penOf()?.colour ?? latest.current.ink.quiet,
    splits: () => ticks().map((tick) => tick.at),
    values: () => ticks().map((tick) => tick.text),
  };
}

function paint(u: uPlot, props: TimeChartProps): void {
  const { left, top, width, height } = u.bbox;
  const { startUs, endUs, large = false } = props;
  const place = { context: u.ctx, left, top, width, height, ratio: uPlot.pxRatio, startUs, endUs, large };
  paintStrip(place, props);
}
