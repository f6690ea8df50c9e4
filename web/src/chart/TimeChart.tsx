/** The one place that knows the chart library: axes, grid and scales are its work, curves are ours. */
import { memo, useEffect, useRef, type ReactElement } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { SECOND } from '../domain/time';
import type { Pen } from './curve';
import type { Plot } from './place';
import {
  axisFont,
  AXIS_HEIGHT,
  axisTimes,
  elapsedTicks,
  GUTTER_LEFT,
  GUTTER_RIGHT,
  paintGround,
  paintStrip,
  PLAIN_HEIGHT,
  scaleTicks,
  tickRoom,
  TOP,
  USUAL_LOOK,
  type TimeChartProps,
} from './strip';

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
  }, [props.ink, props.showTimes, props.zone, props.gutterRight, props.large, props.look, hasRight]);

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
    look = USUAL_LOOK,
  } = latest.current;
  const room = tickRoom(look, large);
  const shared = { stroke: ink.axis ?? ink.quiet, font: axisFont(large), ticks: { show: false } };
  return {
    width,
    height,
    padding: [TOP, rightOf === undefined ? gutterRight : 0, showTimes ? 0 : PLAIN_HEIGHT, 0],
    legend: { show: false },
    cursor: { show: false },
    tzDate: (s) => uPlot.tzDate(new Date(s * 1000), zone),
    scales: { x: { time: true, auto: false }, y: { auto: false, range: [0, 1] } },
    series: [{}, { show: false, scale: 'y' }],
    axes: [
      {
        ...shared,
        show: true,
        size: showTimes ? AXIS_HEIGHT[large ? 'large' : 'usual'] : 0,
        space: room,
        grid: { show: look.grid, stroke: ink.rule, width: 1, dash: [2, 4] },
        ...(look.times === 'elapsed' && { splits: () => sinceStart(latest.current, room) }),
        values: (_, splits) =>
          showTimes && look.axes
            ? axisTimes(
                splits.map((at) => at * SECOND),
                zone,
                look.times,
                latest.current.startUs,
              )
            : splits.map(() => ''),
      },
      {
        ...shared,
        ...scaleAxis(() => latest.current.scaleOf, latest),
        size: GUTTER_LEFT,
        grid: { show: look.grid && latest.current.pens !== undefined, stroke: ink.rule, width: 1 },
      },
      {
        ...shared,
        ...scaleAxis(() => latest.current.rightOf, latest),
        show: rightOf !== undefined,
        side: RIGHT,
        size: gutterRight,
        // Behind the discs with the pens' numbers.
        gap: 20,
        grid: { show: false },
      },
    ],
    hooks: {
      drawClear: [(u: uPlot) => paintGround(placeOf(u, latest.current), latest.current.ink)],
      draw: [(u: uPlot) => paint(u, latest.current)],
    },
  };
}

function sinceStart(props: TimeChartProps, room: number): number[] {
  const most = Math.max((props.width - GUTTER_LEFT) / room, 2);
  return elapsedTicks(props, most).map((us) => us / SECOND);
}

/** The ticks of a pen's scale, in its colour. */
function scaleAxis(penOf: () => Pen | undefined, latest: Latest): uPlot.Axis {
  const ticks = (): ReturnType<typeof scaleTicks> => scaleTicks(penOf(), latest.current.height);
  const { look = USUAL_LOOK, ink } = latest.current;
  return {
    scale: 'y',
    stroke: () => ink.axis ?? penOf()?.colour ?? ink.quiet,
    splits: () => ticks().map((tick) => tick.at),
    values: () => ticks().map((tick) => (look.axes ? tick.text : '')),
  };
}

/** What is painted leaves the context as it was: the library remembers which font and colour it set last. */
function paint(u: uPlot, props: TimeChartProps): void {
  u.ctx.save();
  paintStrip(placeOf(u, props), props);
  u.ctx.restore();
}

function placeOf(u: uPlot, { startUs, endUs, large = false }: TimeChartProps): Plot {
  const { left, top, width, height } = u.bbox;
  return { context: u.ctx, left, top, width, height, ratio: uPlot.pxRatio, startUs, endUs, large };
}
