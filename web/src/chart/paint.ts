/** Drawing of pens and contacts on the plot's canvas, in canvas pixels. */
import { isBad, isUncertain } from '../domain/quality';
import { eachState, indexAt, type ContactRow, type Pen } from './curve';
import { isDense, paintDense } from './dense';
import { paintMarkers } from './markers';
import { x, y, type Plot } from './place';

export interface PlotInk {
  ink: string;
  quiet: string;
  surface: string;
}

/** Height of texts on the plot, canvas pixels. */
function textPx({ ratio, large }: Plot): number {
  return (large ? 15 : 10) * ratio;
}

/** Draws one pen: solid where good, dotted where uncertain, nothing where bad. */
export function paintPen(plot: Plot, pen: Pen): void {
  const { context } = plot;
  context.save();
  context.beginPath();
  context.rect(plot.left, plot.top - 2, plot.width, plot.height + 4);
  context.clip();
  context.globalAlpha = pen.alpha * (pen.dimmed ? 0.35 : pen.guide ? 0.7 : 1);
  context.strokeStyle = pen.colour;
  context.fillStyle = pen.colour;
  context.lineWidth = (pen.guide ? Math.min(pen.width, 1.2) : pen.width) * plot.ratio;
  context.lineJoin = 'round';
  if (pen.draw === 'area') fillArea(plot, pen);
  if (pen.draw !== 'points') (isDense(plot, pen) ? paintDense : strokeRuns)(plot, pen);
  if (pen.draw === 'points' || isZoomedIn(plot, pen)) paintPoints(plot, pen);
  if (pen.markers) paintMarkers(plot, pen);
  paintLines(plot, pen);
  paintLabel(plot, pen);
  paintStates(plot, pen);
  context.restore();
  paintFloor(plot, pen.gaps, pen.colour);
}

/** So few samples in view that each can be told from its neighbours. */
function isZoomedIn(plot: Plot, pen: Pen): boolean {
  const { t } = pen.columns;
  const count = indexAt(t, plot.endUs) - indexAt(t, plot.startUs);
  return !pen.guide && count > 0 && count * 14 * plot.ratio < plot.width;
}

/** A dot at each usable sample. */
function paintPoints(plot: Plot, pen: Pen): void {
  const { t, v, q } = pen.columns;
  const { context } = plot;
  const radius = Math.max(1.2, pen.width) * plot.ratio;
  const last = indexAt(t, plot.endUs);
  for (let i = Math.max(indexAt(t, plot.startUs), 0); i <= last; i++) {
    const value = v[i] ?? NaN;
    if (isBad(q[i] ?? 0) || Number.isNaN(value)) continue;
    context.beginPath();
    context.arc(x(plot, t[i] ?? 0), y(plot, pen, value), radius, 0, 2 * Math.PI);
    context.fill();
  }
}

/** Fills from the line to the floor, run by run between bad samples. */
function fillArea(plot: Plot, pen: Pen): void {
  const { t, v, q } = pen.columns;
  const { context } = plot;
  const floor = plot.top + plot.height;
  const first = Math.max(indexAt(t, plot.startUs), 0);
  const last = Math.min(indexAt(t, plot.endUs) + 1, t.length - 1);
  const alpha = context.globalAlpha;
  context.globalAlpha = alpha * 0.12;
  let open = false;
  let lastY = floor;
  const close = (px: number): void => {
    if (!open) return;
    context.lineTo(px, lastY);
    context.lineTo(px, floor);
    context.fill();
    open = false;
  };
  for (let i = first; i <= last; i++) {
    const px = x(plot, t[i] ?? 0);
    if (isBad(q[i] ?? 0) || Number.isNaN(v[i])) {
      close(px);
      continue;
    }
    const py = y(plot, pen, v[i] ?? 0);
    if (!open) {
      context.beginPath();
      context.moveTo(px, floor);
      open = true;
    } else if (pen.stepped) context.lineTo(px, lastY);
    context.lineTo(px, py);
    lastY = py;
  }
  close(x(plot, Math.max(t[last] ?? 0, last === t.length - 1 ? pen.heldUntilUs : 0)));
  context.globalAlpha = alpha;
}

/** Constants on the pen's scale, as guide lines with their value at the left. */
function paintLines(plot: Plot, pen: Pen): void {
  const { context, ratio } = plot;
  context.lineWidth = ratio;
  context.setLineDash([6 * ratio, 4 * ratio]);
  context.font = `${textPx(plot)}px B612`;
  context.textAlign = 'left';
  context.textBaseline = 'bottom';
  for (const value of pen.lines) {
    const py = y(plot, pen, value);
    context.beginPath();
    context.moveTo(plot.left, py);
    context.lineTo(plot.left + plot.width, py);
    context.stroke();
    context.fillText(String(value), plot.left + 4 * ratio, py - 2 * ratio);
  }
}

/** The name of a guide line, on it where it begins. */
function paintLabel(plot: Plot, pen: Pen): void {
  if (pen.label === '') return;
  const { context, ratio } = plot;
  const { t, v, q } = pen.columns;
  let first = Math.max(indexAt(t, plot.startUs), 0);
  while (first < t.length && (isBad(q[first] ?? 0) || Number.isNaN(v[first]))) first += 1;
  if (first >= t.length) return;
  const px = Math.max(x(plot, t[first] ?? 0), plot.left);
  context.font = `${textPx(plot)}px B612`;
  context.textAlign = 'left';
  context.textBaseline = 'bottom';
  context.fillText(pen.label, px + 4 * ratio, y(plot, pen, v[first] ?? 0) - 2 * ratio);
}

/** The name of each state on its line, where there is room for it. */
function paintStates(plot: Plot, pen: Pen): void {
  if (Object.keys(pen.states).length === 0) return;
  const { context, ratio } = plot;
  const { t, v, q } = pen.columns;
  context.font = `${textPx(plot)}px B612`;
  context.textAlign = 'left';
  context.textBaseline = 'bottom';
  const last = indexAt(t, plot.endUs);
  for (let i = Math.max(indexAt(t, plot.startUs), 0); i <= last; i++) {
    const value = v[i] ?? NaN;
    if (isBad(q[i] ?? 0) || Number.isNaN(value)) continue;
    const from = i;
    while (i < last && v[i + 1] === value && !isBad(q[i + 1] ?? 0)) i += 1;
    const left = Math.max(x(plot, t[from] ?? 0), plot.left);
    const right = x(plot, Math.min(t[i + 1] ?? Math.max(pen.heldUntilUs, t[i] ?? 0), plot.endUs));
    const name = pen.states[String(value)];
    if (name === undefined || context.measureText(name).width + 8 * ratio > right - left) continue;
    context.fillText(name, left + 4 * ratio, y(plot, pen, value) - 2 * ratio);
  }
}

/** Strokes the curve as runs of one kind (good or uncertain) between bad samples. */
function strokeRuns(plot: Plot, pen: Pen): void {
  const { t, v, q } = pen.columns;
  const { context } = plot;
  const first = Math.max(indexAt(t, plot.startUs), 0);
  const last = Math.min(indexAt(t, plot.endUs) + 1, t.length - 1);
  let open = false;
  let lastY = 0;
  let dotted = false;
  const begin = (px: number, py: number): void => {
    context.beginPath();
    const dash = pen.guide || pen.dash ? [plot.ratio * 6, plot.ratio * 4] : [];
    context.setLineDash(dotted ? [plot.ratio * 1.5, plot.ratio * 3] : dash);
    context.moveTo(px, py);
  };
  for (let i = first; i <= last; i++) {
    const quality = q[i] ?? 0;
    const px = x(plot, t[i] ?? 0);
    const bad = isBad(quality) || Number.isNaN(v[i]);
    if (bad) {
      if (open) {
        context.lineTo(px, lastY);
        context.stroke();
      }
      open = false;
      continue;
    }
    const py = y(plot, pen, v[i] ?? 0);
    if (!open) {
      dotted = isUncertain(quality);
      markLonely(plot, pen, i, px, py);
      begin(px, py);
      open = true;
    } else {
      if (pen.stepped) context.lineTo(px, lastY);
      context.lineTo(px, py);
      if (isUncertain(quality) !== dotted) {
        context.stroke();
        dotted = isUncertain(quality);
        begin(px, py);
      }
    }
    lastY = py;
  }
  if (open) {
    const end = t[last] ?? 0;
    if (last === t.length - 1 && pen.heldUntilUs > end) context.lineTo(x(plot, pen.heldUntilUs), lastY);
    context.stroke();
  }
}

/** A sample between two bad ones makes no line: it gets a dot. */
function markLonely(plot: Plot, pen: Pen, index: number, px: number, py: number): void {
  const next = pen.columns.q[index + 1];
  if (next !== undefined && !isBad(next)) return;
  plot.context.fillRect(px - plot.ratio, py - plot.ratio, 2 * plot.ratio, 2 * plot.ratio);
}

const DISC = 7.5;

interface NumberPlace {
  pen: Pen;
  x: number;
  y: number;
}

/** Each pen's number in a disc at the end of its line; discs that would cover each other move apart. */
export function paintNumbers(plot: Plot, pens: readonly Pen[], ink: PlotInk): void {
  const places = pens
    .map((pen) => numberPlace(plot, pen))
    .filter((place) => place !== null)
    .sort((a, b) => a.y - b.y);
  const apart = 2 * DISC * plot.ratio;
  places.forEach((place, i) => {
    const above = places[i - 1];
    if (above !== undefined) place.y = Math.max(place.y, above.y + apart);
  });
  places.forEach((place) => paintNumber(plot, place, ink));
}

function numberPlace(plot: Plot, pen: Pen): NumberPlace | null {
  if (pen.number === 0) return null;
  const end = Math.min(plot.endUs, Math.max(pen.heldUntilUs, pen.columns.t.at(-1) ?? 0));
  const v = pen.columns.v[indexAt(pen.columns.t, end)];
  if (v === undefined || Number.isNaN(v) || end < plot.startUs) return null;
  const radius = DISC * plot.ratio;
  return {
    pen,
    x: Math.min(x(plot, end) + radius, plot.left + plot.width + radius),
    y: Math.min(Math.max(y(plot, pen, v), plot.top), plot.top + plot.height),
  };
}

function paintNumber({ context, ratio }: Plot, place: NumberPlace, ink: PlotInk): void {
  context.fillStyle = place.pen.colour;
  context.beginPath();
  context.arc(place.x, place.y, DISC * ratio, 0, 2 * Math.PI);
  context.fill();
  context.fillStyle = ink.surface;
  context.font = `bold ${10 * ratio}px B612`;
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  context.fillText(String(place.pen.number), place.x, place.y + 0.5 * ratio);
}

/** Gaps are closed by a hatch on the strip's floor. */
function paintFloor(plot: Plot, gaps: Pen['gaps'], colour: string): void {
  const { context, ratio } = plot;
  const height = 6 * ratio;
  const floor = plot.top + plot.height;
  context.save();
  context.strokeStyle = colour;
  context.globalAlpha = 0.7;
  context.lineWidth = ratio;
  context.setLineDash([]);
  for (const gap of gaps) {
    const from = Math.max(x(plot, gap.startUs), plot.left);
    const to = Math.min(x(plot, gap.endUs), plot.left + plot.width);
    if (to - from < 1) continue;
    context.save();
    context.beginPath();
    context.rect(from, floor - height, to - from, height);
    context.clip();
    context.beginPath();
    for (let px = from - height; px < to; px += 5 * ratio) {
      context.moveTo(px, floor);
      context.lineTo(px + height, floor - height);
    }
    context.stroke();
    context.restore();
  }
  context.restore();
}

/** Rows of contacts: a bar while on, a thin line while off, nothing while unknown. */
export function paintContacts(plot: Plot, rows: readonly ContactRow[], ink: PlotInk): void {
  const { context, ratio } = plot;
  const pitch = plot.height / Math.max(rows.length, 1);
  rows.forEach((row, index) => {
    const middle = plot.top + (index + 0.5) * pitch;
    context.save();
    context.beginPath();
    context.rect(plot.left, plot.top, plot.width, plot.height);
    context.clip();
    paintRow({ ...plot, top: middle + 5 * ratio - 6 * ratio, height: 6 * ratio }, row, middle, ink);
    context.restore();
    context.fillStyle = ink.quiet;
    context.font = `${textPx(plot) + ratio}px B612`;
    context.textAlign = 'right';
    context.textBaseline = 'middle';
    context.fillText(fitting(context, row.label, plot.left - 12 * ratio), plot.left - 8 * ratio, middle);
  });
}

/** The text, cut with an ellipsis where it is wider than its place. */
function fitting(context: CanvasRenderingContext2D, text: string, width: number): string {
  if (context.measureText(text).width <= width) return text;
  let end = text.length - 1;
  while (end > 1 && context.measureText(`${text.slice(0, end)}…`).width > width) end -= 1;
  return `${text.slice(0, end).trimEnd()}…`;
}

function paintRow(plot: Plot, row: ContactRow, middle: number, ink: PlotInk): void {
  const { context, ratio } = plot;
  eachState(row.columns, row.heldUntilUs, plot, (from, to, on) => {
    const left = x(plot, from);
    const width = Math.max(x(plot, to) - left, on ? ratio : 0);
    context.fillStyle = on ? ink.ink : ink.quiet;
    if (on) context.fillRect(left, middle - 6 * ratio, width, 12 * ratio);
    else context.fillRect(left, middle + 2 * ratio, width, ratio);
  });
  paintFloor(plot, row.gaps, ink.quiet);
}
