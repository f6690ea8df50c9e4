/** Strips drawn as vectors (SVG), by the same painting as on the screen. */
import { Context } from 'svgcanvas';
import { niceTimeTicks } from '../domain/ticks';
import {
  axisFont,
  axisTimes,
  elapsedTicks,
  GUTTER_LEFT,
  GUTTER_RIGHT,
  paintGround,
  paintStrip,
  plotRows,
  scaleTicks,
  USUAL_LOOK,
  type TimeChartProps,
} from './strip';

const TIME_TICKS = { few: 4, usual: 7, many: 12 };

/** A drawing of so many pixels, and what it is as text in the end. */
export function vectorDrawing(
  width: number,
  height: number,
): { context: CanvasRenderingContext2D; text: () => string } {
  const made = new Context(width, height);
  // It has the methods that the painting uses; what it lacks of the interface is not asked for.
  return { context: made as unknown as CanvasRenderingContext2D, text: () => made.getSerializedSvg() };
}

/** Draws a strip with its axes at a place of the drawing. */
export function drawStrip(
  context: CanvasRenderingContext2D,
  props: TimeChartProps,
  left: number,
  top: number,
): void {
  const rows = plotRows(props);
  const plot = {
    context,
    left: left + GUTTER_LEFT,
    top: top + rows.top,
    width: props.width - GUTTER_LEFT - (props.gutterRight ?? GUTTER_RIGHT),
    height: rows.height,
    ratio: 1,
    startUs: props.startUs,
    endUs: props.endUs,
    large: props.large ?? false,
  };
  const { ink, look = USUAL_LOOK } = props;
  paintGround(plot, ink);
  context.lineWidth = 1;
  context.strokeStyle = ink.rule;
  context.font = axisFont(plot.large);
  for (const tick of scaleTicks(props.scaleOf, props.height)) {
    const y = plot.top + (1 - tick.at) * plot.height;
    if (look.grid) line(context, [plot.left, y], [plot.left + plot.width, y]);
    if (!look.axes) continue;
    tickAt(context, tick.text, plot.left - 6, y, 'right', ink.axis ?? props.scaleOf?.colour ?? ink.quiet);
  }
  for (const tick of look.axes ? scaleTicks(props.rightOf, props.height) : []) {
    const y = plot.top + (1 - tick.at) * plot.height;
    tickAt(
      context,
      tick.text,
      plot.left + plot.width + 20,
      y,
      'left',
      ink.axis ?? props.rightOf?.colour ?? ink.quiet,
    );
  }
  const most = TIME_TICKS[look.ticks];
  const times = look.times === 'elapsed' ? elapsedTicks(props, most) : niceTimeTicks(props, most, props.zone);
  const words = axisTimes(times, props.zone, look.times, props.startUs);
  times.forEach((us, i) => {
    const x = plot.left + ((us - plot.startUs) / (plot.endUs - plot.startUs)) * plot.width;
    if (look.grid) line(context, [x, plot.top], [x, plot.top + plot.height]);
    if (!props.showTimes || !look.axes) return;
    context.fillStyle = ink.axis ?? ink.quiet;
    context.textAlign = 'center';
    context.textBaseline = 'top';
    (words[i] ?? '').split('\n').forEach((word, row) => {
      context.fillText(word, x, plot.top + plot.height + 6 + row * 14);
    });
  });
  paintStrip(plot, props);
}

function line(context: CanvasRenderingContext2D, from: [number, number], to: [number, number]): void {
  context.beginPath();
  context.moveTo(...from);
  context.lineTo(...to);
  context.stroke();
}

function tickAt(
  context: CanvasRenderingContext2D,
  text: string,
  x: number,
  y: number,
  align: CanvasTextAlign,
  colour: string,
): void {
  context.fillStyle = colour;
  context.textAlign = align;
  context.textBaseline = 'middle';
  context.fillText(text, x, y);
}
