/** What a strip of a trend is made of, wherever it is drawn: its axes' texts and the painting of its curves. */
import { logTicks, niceStep, niceTicks, tickText } from '../domain/format';
import { niceTimeTicks } from '../domain/ticks';
import { clockText, dayText, lengthText, MINUTE, SECOND, type Span } from '../domain/time';
import { shareOf, type ContactRow, type Pen } from './curve';
import { paintBands } from './markers';
import { paintContacts, paintNumbers, paintPen, type PlotInk } from './paint';
import type { Plot } from './place';

export const GUTTER_LEFT = 112;
export const GUTTER_RIGHT = 20;
/** With an axis at the right. */
export const GUTTER_AXIS = 68;
/** Above the plot and, where it has no times, below it. */
export const TOP = 10;
export const PLAIN_HEIGHT = 6;
export const AXIS_HEIGHT = { usual: 40, large: 58 };

export interface TimeChartProps {
  startUs: number;
  endUs: number;
  zone: string;
  /** Size in CSS pixels. */
  width: number;
  height: number;
  pens?: readonly Pen[];
  contacts?: readonly ContactRow[];
  /** Contacts drawn over the pens. */
  over?: readonly ContactRow[];
  /** The pen whose scale the axis shows. */
  scaleOf?: Pen | undefined;
  /** The pen whose scale the axis at the right shows. */
  rightOf?: Pen | undefined;
  /** Room at the right, CSS pixels. */
  gutterRight?: number;
  showTimes: boolean;
  /** Texts are to be read at a distance. */
  large?: boolean;
  /** A strip of another look has another object. */
  look?: ChartLook;
  ink: ChartInk;
}

export interface ChartInk extends PlotInk {
  rule: string;
  /** Behind the curves; without it nothing is painted there. */
  ground?: string;
  /** Texts of the axes; without it those of a scale have its pen's colour. */
  axis?: string;
}

/** What of the axes is drawn. */
export interface ChartLook {
  grid: boolean;
  /** Texts of the axes. */
  axes: boolean;
  /** The clock, day and clock, or the time since the start of the window. */
  times: 'clock' | 'day' | 'elapsed';
  ticks: 'usual' | 'few' | 'many';
}

export const USUAL_LOOK: ChartLook = { grid: true, axes: true, times: 'clock', ticks: 'usual' };

/** Where the plot lies in the chart, CSS pixels from its upper edge. */
export function plotRows({
  height,
  showTimes,
  large = false,
}: Pick<TimeChartProps, 'height' | 'showTimes' | 'large'>): { top: number; height: number } {
  const below = showTimes ? AXIS_HEIGHT[large ? 'large' : 'usual'] : PLAIN_HEIGHT;
  return { top: TOP, height: Math.max(height - TOP - below, 1) };
}

/** The font of the axes. */
export function axisFont(large: boolean): string {
  return large ? '17px B612' : '11px B612';
}

/** What stands at each tick: the clock, and the day under the first one and at each change of the day or under each; or
 * the time since the start. */
export function axisTimes(
  ticksUs: readonly number[],
  zone: string,
  times: ChartLook['times'] = 'clock',
  startUs = 0,
): string[] {
  const stepUs = ticksUs.length < 2 ? MINUTE : (ticksUs[1] ?? 0) - (ticksUs[0] ?? 0);
  return ticksUs.map((us, i) => {
    if (times === 'elapsed') return lengthText(Math.round(us - startUs));
    const before = ticksUs[i - 1];
    const clock = clockText(us, zone, stepUs < SECOND ? 1 : stepUs < MINUTE ? SECOND : MINUTE);
    const day = dayText(us, zone);
    const isNew = before === undefined || dayText(before, zone) !== day;
    return isNew || times === 'day' ? `${clock}\n${day}` : clock;
  });
}

/** Ticks at round times since the start of a window. */
export function elapsedTicks({ startUs, endUs }: Span, most: number): number[] {
  return niceTimeTicks({ startUs: 0, endUs: endUs - startUs }, most, 'UTC').map((us) => startUs + us);
}

/** Pixels between two ticks of the axis of time, at least. */
export function tickRoom({ ticks, times }: ChartLook, large: boolean): number {
  const least = { few: 190, usual: 90, many: times === 'clock' ? 56 : 80 }[ticks];
  return large ? least * 1.55 : least;
}

/** The value at a share of a scale: 0 at its lower end, 1 at the upper one. */
export function valueAt({ low, high, log }: Pick<Pen, 'low' | 'high' | 'log'>, share: number): number {
  return log ? low * (high / low) ** share : low + (high - low) * share;
}

/** Where the axis has ticks, as shares of its height, and what they say. */
export function scaleTicks(scaleOf: Pen | undefined, height: number): { at: number; text: string }[] {
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

/** The ground of a plot, where it has one of its own. */
export function paintGround({ context, left, top, width, height }: Plot, { ground }: ChartInk): void {
  if (ground === undefined) return;
  // The chart library remembers which colour it set last.
  context.save();
  context.fillStyle = ground;
  context.fillRect(left, top, width, height);
  context.restore();
}

/** Pens or contacts of a strip. */
export function paintStrip(plot: Plot, { pens = [], contacts, over = [], ink }: TimeChartProps): void {
  paintBands(plot, over, ink.ink);
  // The dimmed ones first: what is selected lies on top.
  [...pens].sort((a, b) => Number(b.dimmed) - Number(a.dimmed)).forEach((pen) => paintPen(plot, pen));
  paintNumbers(plot, pens, ink);
  if (contacts !== undefined) paintContacts(plot, contacts, ink);
}
