/** What a strip of a trend is made of, wherever it is drawn: its axes' texts and the painting of its curves. */
import { logTicks, niceStep, niceTicks, tickText } from '../domain/format';
import { clockText, dayText, MINUTE, SECOND } from '../domain/time';
import { shareOf, type ContactRow, type Pen } from './curve';
import { paintContacts, paintNumbers, paintPen, type PlotInk } from './paint';
import type { Plot } from './place';

export const GUTTER_LEFT = 112;
export const GUTTER_RIGHT = 20;
/** With an axis at the right. */
export const GUTTER_AXIS = 68;

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
  /** The pen whose scale the axis at the right shows. */
  rightOf?: Pen | undefined;
  /** Room at the right, CSS pixels. */
  gutterRight?: number;
  showTimes: boolean;
  /** Texts are to be read at a distance. */
  large?: boolean;
  ink: PlotInk & { rule: string };
}

/** The font of the axes. */
export function axisFont(large: boolean): string {
  return large ? '17px B612' : '11px B612';
}

/** The clock at each tick, and the day under the first one and at each change of the day. */
export function axisTimes(ticksUs: readonly number[], zone: string): string[] {
  const stepUs = ticksUs.length < 2 ? MINUTE : (ticksUs[1] ?? 0) - (ticksUs[0] ?? 0);
  return ticksUs.map((us, i) => {
    const before = ticksUs[i - 1];
    const clock = clockText(us, zone, stepUs < SECOND ? 1 : stepUs < MINUTE ? SECOND : MINUTE);
    const day = dayText(us, zone);
    return before === undefined || dayText(before, zone) !== day ? `${clock}\n${day}` : clock;
  });
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

/** Pens or contacts of a strip. */
export function paintStrip(plot: Plot, { pens = [], contacts, ink }: TimeChartProps): void {
  // The dimmed ones first: what is selected lies on top.
  [...pens].sort((a, b) => Number(b.dimmed) - Number(a.dimmed)).forEach((pen) => paintPen(plot, pen));
  paintNumbers(plot, pens, ink);
  if (contacts !== undefined) paintContacts(plot, contacts, ink);
}
