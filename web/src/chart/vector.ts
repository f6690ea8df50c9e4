/** Strips drawn as vectors (SVG), by the same painting as on the screen. */
import { Context } from 'svgcanvas';
import { niceTimeTicks } from '../domain/ticks';
import {
  axisFont,
  axisTimes,
  GUTTER_LEFT,
  GUTTER_RIGHT,
  paintStrip,
  scaleTicks,
  type TimeChartProps,
} from './strip';

const TOP = 10;
const TIMES_HEIGHT = 40;
const TIME_TICKS = 7;

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
  const plot = {
    context,
    left: left + GUTTER_LEFT,
    top: top + TOP,
    width: props.width - GUTTER_LEFT - (props.gutterRight ?? GUTTER_RIGHT),
    height: props.height - TOP - (props.showTimes ? TIMES_HEIGHT : 0),
    ratio: 1,
    startUs: props.startUs,
    endUs: props.endUs,
    large: props.large ?? false,
  };
  const { ink } = props;
  context.lineWidth = 1;
  context.strokeStyle = ink.rule;
  context.font = axisFont(plot.large);
  for (const tick of scaleTicks(props.scaleOf, props.height)) {
    const y = plot.top + (1 - tick.at) * plot.height;
    line(context, [plot.left, y], [plot.left + plot.width, y]);
    tickAt(context, tick.text, plot.left - 6, y, 'right', props.scaleOf?.colour ?? ink.quiet);
  }
  for (const tick of scaleTicks(props.rightOf, props.height)) {
    const y = plot.top + (1 - tick.at) * plot.height;
    tickAt(context, tick.text, plot.left + plot.width + 20, y, 'left', props.rightOf?.colour ?? ink.quiet);
  }
  const times = niceTimeTicks(props, TIME_TICKS, props.zone);
  const words = axisTimes(times, props.zone);
  times.forEach((us, i) => {
    const x = plot.left + ((us - plot.startUs) / (plot.endUs - plot.startUs)) * plot.width;
    line(context, [x, plot.top], [x, plot.top + plot.height]);
    if (!props.showTimes) return;
    context.fillStyle = ink.quiet;
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
