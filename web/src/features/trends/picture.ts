/** A trend as a picture: title, window, plot, and the pens with their values and scales. */
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
  const { tokens, legend } = picture;
  const width = Math.max(...plots.map((plot) => plot.width / ratio), 400);
  const plotHeight = plots.reduce((sum, plot) => sum + plot.height / ratio, 0);
  const canvas = document.createElement('canvas');
  canvas.width = (width + 2 * MARGIN) * ratio;
  canvas.height = (HEAD + plotHeight + legend.length * LINE + 2 * MARGIN) * ratio;
  const context = canvas.getContext('2d');
  if (context === null) throw new Error('The browser gives no canvas to draw on.');
  context.scale(ratio, ratio);
  context.fillStyle = tokens.surface;
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.fillStyle = tokens.ink;
  context.font = 'bold 18px B612';
  context.fillText(picture.title, MARGIN, MARGIN + 16);
  context.fillStyle = tokens.quiet;
  context.font = '12px B612';
  context.fillText(picture.window, MARGIN, MARGIN + 36);
  let top = HEAD;
  for (const plot of plots) {
    context.drawImage(plot, MARGIN, top, plot.width / ratio, plot.height / ratio);
    top += plot.height / ratio;
  }
  legend.forEach((one, i) => drawLine(context, one, tokens, top + MARGIN + i * LINE));
  return canvas;
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

/** Offers a canvas as a PNG file. */
function savePicture(canvas: HTMLCanvasElement, name: string): void {
  canvas.toBlob((blob) => {
    if (blob === null) return;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(blob);
    link.download = name;
    link.click();
    URL.revokeObjectURL(link.href);
  }, 'image/png');
}

/** Saves what a plot's canvases show as a picture. */
export function takePicture(host: HTMLElement | null, picture: Picture): void {
  const plots = [...(host?.querySelectorAll('canvas') ?? [])];
  if (plots.length > 0) savePicture(drawPicture(plots, picture), 'trend.png');
}
