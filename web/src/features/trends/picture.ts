/** A trend as a picture: title, window, plot, and the pens with their values and scales. */
import type { TimeChartProps } from '../../chart';
import type { Tokens } from '../../shared/lib/tokens';

export interface Legend {
  number: number;
  name: string;
  colour: string;
  scale: string;
  value: string;
}

export interface Picture {
  title: string;
  window: string;
  legend: readonly Legend[];
  tokens: Tokens;
}

const MARGIN = 16;
const LINE = 18;
const HEAD = 52;

/** Draws the canvases of a plot below each other, with head and legend, onto one canvas. */
function drawPicture(plots: readonly HTMLCanvasElement[], picture: Picture): HTMLCanvasElement {
  const ratio = window.devicePixelRatio;
  const width = Math.max(...plots.map((plot) => plot.width / ratio), 400);
  const plotHeight = plots.reduce((sum, plot) => sum + plot.height / ratio, 0);
  const size = sizeOf(width, plotHeight, picture);
  const canvas = document.createElement('canvas');
  canvas.width = size.width * ratio;
  canvas.height = size.height * ratio;
  const context = canvas.getContext('2d');
  if (context === null) throw new Error('The browser gives no canvas to draw on.');
  context.scale(ratio, ratio);
  drawAround(context, picture, size, plotHeight);
  let top = HEAD;
  for (const plot of plots) {
    context.drawImage(plot, MARGIN, top, plot.width / ratio, plot.height / ratio);
    top += plot.height / ratio;
  }
  return canvas;
}

interface Size {
  width: number;
  height: number;
}

function sizeOf(plotWidth: number, plotHeight: number, { legend }: Picture): Size {
  return {
    width: plotWidth + 2 * MARGIN,
    height: HEAD + plotHeight + legend.length * LINE + 2 * MARGIN,
  };
}

/** Ground, head and legend. */
function drawAround(
  context: CanvasRenderingContext2D,
  picture: Picture,
  { width, height }: Size,
  plotHeight: number,
): void {
  const { tokens, legend } = picture;
  context.fillStyle = tokens.surface;
  context.fillRect(0, 0, width, height);
  context.textAlign = 'left';
  context.textBaseline = 'alphabetic';
  context.fillStyle = tokens.ink;
  context.font = 'bold 18px B612';
  context.fillText(picture.title, MARGIN, MARGIN + 16);
  context.fillStyle = tokens.quiet;
  context.font = '12px B612';
  context.fillText(picture.window, MARGIN, MARGIN + 36);
  legend.forEach((one, i) => drawLine(context, one, tokens, HEAD + plotHeight + MARGIN + i * LINE));
}

function drawLine(context: CanvasRenderingContext2D, one: Legend, tokens: Tokens, y: number): void {
  context.fillStyle = one.colour;
  context.fillRect(MARGIN, y - 8, 10, 10);
  context.fillStyle = tokens.ink;
  context.font = '12px B612';
  const number = one.number > 0 ? `${one.number}  ` : '';
  context.fillText(`${number}${one.name}`, MARGIN + 18, y);
  context.fillStyle = tokens.quiet;
  context.fillText(`${one.value}   ${one.scale}`, MARGIN + 340, y);
}

/** Offers something as a file. */
function save(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Saves what a plot's canvases show as a picture. */
export function takePicture(host: HTMLElement | null, picture: Picture): void {
  const plots = [...(host?.querySelectorAll('canvas') ?? [])];
  if (plots.length === 0) return;
  drawPicture(plots, picture).toBlob((blob) => {
    if (blob !== null) save(blob, 'trend.png');
  }, 'image/png');
}

/** Saves the same drawn anew as vectors (SVG): sharp at any size. */
export async function takeVectors(strips: readonly TimeChartProps[], picture: Picture): Promise<void> {
  if (strips.length === 0) return;
  const { drawStrip, vectorDrawing } = await import('../../chart/vector');
  const plotHeight = strips.reduce((sum, one) => sum + one.height, 0);
  const size = sizeOf(Math.max(...strips.map((one) => one.width)), plotHeight, picture);
  const { context, text } = vectorDrawing(size.width, size.height);
  drawAround(context, picture, size, plotHeight);
  let top = HEAD;
  for (const strip of strips) {
    drawStrip(context, strip, MARGIN, top);
    top += strip.height;
  }
  save(new Blob([text()], { type: 'image/svg+xml' }), 'trend.svg');
}
