/** A curve with several samples in a pixel column: each column is a bar from its lowest to its highest value.
 *
 * It covers the pixels that a line through all samples covers, and is drawn in a hundredth of the time: a path
 * that crosses the plot thousands of times up and down takes seconds to fill in. */
import { isBad, isUncertain } from '../domain/quality';
import { indexAt, type Pen } from './curve';
import { x, y, type Plot } from './place';

/** More samples in view than pixel columns. */
export function isDense(plot: Plot, { columns: { t } }: Pen): boolean {
  return indexAt(t, plot.endUs) - indexAt(t, plot.startUs) > plot.width;
}

interface Bar {
  column: number;
  /** Canvas pixels. */
  top: number;
  bottom: number;
  uncertain: boolean;
}

/** A line from one place to another, canvas pixels. */
type Link = readonly [fromX: number, fromY: number, toX: number, toY: number];

/** Draws the curve in the context's colour and width. */
export function paintDense(plot: Plot, pen: Pen): void {
  const { t, v, q } = pen.columns;
  const { context } = plot;
  const first = Math.max(indexAt(t, plot.startUs), 0);
  const last = Math.min(indexAt(t, plot.endUs) + 1, t.length - 1);
  let bar = null as Bar | null;
  let before = null as { px: number; py: number } | null;
  const links: Link[] = [];
  for (let i = first; i <= last; i++) {
    const px = x(plot, t[i] ?? 0);
    if (isBad(q[i] ?? 0) || Number.isNaN(v[i])) {
      // Held until it became bad.
      if (before !== null) links.push([before.px, before.py, px, before.py]);
      before = null;
      continue;
    }
    const py = y(plot, pen, v[i] ?? 0);
    const uncertain = isUncertain(q[i] ?? 0);
    const column = Math.floor(px);
    if (bar?.column !== column) {
      if (bar !== null) fill(plot, bar);
      bar = { column, top: py, bottom: py, uncertain };
      if (before !== null) joinTo(links, bar, before, px, pen.stepped);
    }
    bar.top = Math.min(bar.top, py);
    bar.bottom = Math.max(bar.bottom, py);
    bar.uncertain ||= uncertain;
    before = { px, py };
  }
  if (bar !== null) fill(plot, bar);
  if (before !== null && last === t.length - 1) {
    const end = x(plot, Math.max(pen.heldUntilUs, t[last] ?? 0));
    links.push([before.px, before.py, end, before.py]);
  }
  // Behind the bars: a drawing as vectors has one element at a time.
  if (links.length > 0) strokeLinks(context, links);
}

/** The way from the last sample of an earlier column: inside the bar when it is the next one, else a line. */
function joinTo(
  links: Link[],
  bar: Bar,
  before: { px: number; py: number },
  px: number,
  stepped: boolean,
): void {
  const near = bar.column - Math.floor(before.px) <= 1;
  if (near || stepped) {
    bar.top = Math.min(bar.top, before.py);
    bar.bottom = Math.max(bar.bottom, before.py);
  }
  if (!near) links.push([before.px, before.py, px, stepped ? before.py : bar.top]);
}

function strokeLinks(context: CanvasRenderingContext2D, links: readonly Link[]): void {
  context.setLineDash([]);
  context.beginPath();
  for (const [fromX, fromY, toX, toY] of links) {
    context.moveTo(fromX, fromY);
    context.lineTo(toX, toY);
  }
  context.stroke();
}

/** Uncertain bars are paler, two of three: a dotted curve would leave out a spike between its dots. */
const PALE = 0.4;

/** On whole pixels: bars between them take the software renderer twice as long. */
function fill({ context }: Plot, { column, top, bottom, uncertain }: Bar): void {
  const width = context.lineWidth;
  const alpha = context.globalAlpha;
  if (uncertain && column % 3 > 0) context.globalAlpha = alpha * PALE;
  const high = Math.floor(top - width / 2);
  context.fillRect(column, high, Math.max(Math.round(width), 1), Math.ceil(bottom + width / 2) - high);
  context.globalAlpha = alpha;
}
