/** What tells curves apart without colour: forms on their samples, and contacts drawn behind them. */
import { isBad } from '../domain/quality';
import { eachState, indexAt, type ContactRow, type Pen } from './curve';
import { x, y, type Plot } from './place';

/** Between two markers of a curve, CSS pixels. */
const APART = 56;
const RADIUS = 4;
/** Corners of the forms after the circle, as angles in turns from the top. */
const CORNERS: readonly (readonly number[])[] = [
  [],
  [0.125, 0.375, 0.625, 0.875],
  [0, 1 / 3, 2 / 3],
  [0, 0.25, 0.5, 0.75],
  [0.5, 5 / 6, 1 / 6],
];

/** A form by the pen's number, on samples that lie far enough apart; the curve's own colour is set. */
export function paintMarkers(plot: Plot, pen: Pen): void {
  const { t, v, q } = pen.columns;
  const last = indexAt(t, plot.endUs);
  let free = -Infinity;
  // Those of other pens lie elsewhere: two curves over each other can be told.
  const shift = ((pen.number % 8) / 8) * APART * plot.ratio;
  for (let i = Math.max(indexAt(t, plot.startUs) + 1, 0); i <= last; i++) {
    const px = x(plot, t[i] ?? 0);
    if (px - plot.left < shift || px < free || isBad(q[i] ?? 0) || Number.isNaN(v[i])) continue;
    paintForm(plot, pen.number, px, y(plot, pen, v[i] ?? 0));
    free = px + APART * plot.ratio;
  }
}

function paintForm({ context, ratio }: Plot, number: number, px: number, py: number): void {
  const corners = CORNERS[(number - 1) % CORNERS.length] ?? [];
  const radius = RADIUS * ratio;
  context.beginPath();
  if (corners.length === 0) context.arc(px, py, radius, 0, 2 * Math.PI);
  corners.forEach((turn, i) => {
    const angle = (turn - 0.25) * 2 * Math.PI;
    const place = [px + radius * 1.2 * Math.cos(angle), py + radius * 1.2 * Math.sin(angle)] as const;
    if (i === 0) context.moveTo(...place);
    else context.lineTo(...place);
  });
  context.closePath();
  context.fill();
}

/** Contacts over the whole height of the plot while they are on, with their name at the first time. */
export function paintBands(plot: Plot, rows: readonly ContactRow[], ink: string): void {
  const { context, ratio, left, top, width, height } = plot;
  rows.forEach((row, index) => {
    context.save();
    context.beginPath();
    context.rect(left, top, width, height);
    context.clip();
    context.fillStyle = ink;
    context.font = `${(plot.large ? 15 : 10) * ratio}px B612`;
    context.textAlign = 'left';
    context.textBaseline = 'top';
    let isNamed = false;
    eachState(row.columns, row.heldUntilUs, plot, (from, to, on) => {
      const begin = Math.max(x(plot, from), left);
      const long = Math.max(x(plot, to) - begin, ratio);
      if (!on || begin + long < left) return;
      context.globalAlpha = 0.13;
      context.fillRect(begin, top, long, height);
      context.globalAlpha = 0.8;
      context.fillRect(begin, top, ratio, height);
      if (!isNamed) context.fillText(row.label, begin + 4 * ratio, top + (2 + 14 * index) * ratio);
      isNamed = true;
    });
    context.restore();
  });
}
