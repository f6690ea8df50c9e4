/** A trend as a picture: title, window, plot, and the pens with their values and scales. */
import * as wording from 'texts/trends.json';
import { saveBlob } from '../../../platform/download';
import { print, printedPlace } from '../../../platform/printing';
import type { Tokens } from '../../../ui/tokens';
import type { PlacedCharts } from './StripCell';

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

/** Draws the canvases of a plot where they lie in it, with head and legend, onto one canvas. */
function drawPicture(host: HTMLElement, picture: Picture): HTMLCanvasElement {
  const ratio = window.devicePixelRatio;
  const box = host.getBoundingClientRect();
  const size = sizeOf(box.width, box.height, picture);
  const canvas = document.createElement('canvas');
  canvas.width = size.width * ratio;
  canvas.height = size.height * ratio;
  const context = canvas.getContext('2d');
  if (context === null) throw new Error(wording.theBrowserGivesNoCanvasTo);
  context.scale(ratio, ratio);
  drawAround(context, picture, size, box.height);
  for (const plot of host.querySelectorAll('canvas')) {
    const { left, top, width, height } = plot.getBoundingClientRect();
    context.drawImage(plot, MARGIN + left - box.left, HEAD + top - box.top, width, height);
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

/** Saves what a plot shows: its canvases as they are, or drawn anew as vectors, sharp at any size. */
export async function takePicture(
  kind: 'png' | 'svg',
  host: HTMLElement | null,
  placed: readonly PlacedCharts[],
  picture: Picture,
): Promise<void> {
  if (host === null || placed.length === 0) return;
  if (kind === 'svg') {
    const text = await vectorsOf(host, placed, picture);
    saveBlob(new Blob([text], { type: 'image/svg+xml' }), 'trend.svg');
    return;
  }
  drawPicture(host, picture).toBlob((blob) => {
    if (blob !== null) saveBlob(blob, 'trend.png');
  }, 'image/png');
}

/** Prints the sheet as vectors, on one page of whatever paper is chosen, and nothing else of the screen. */
export async function printPicture(
  host: HTMLElement | null,
  placed: readonly PlacedCharts[],
  picture: Picture,
): Promise<void> {
  if (host === null || placed.length === 0) return;
  const text = await vectorsOf(host, placed, picture);
  const drawing = new DOMParser().parseFromString(text, 'image/svg+xml').documentElement;
  // Its size is that of the screen: on paper it is as large as the page lets it be.
  drawing.setAttribute('viewBox', `0 0 ${attribute(drawing, 'width')} ${attribute(drawing, 'height')}`);
  drawing.removeAttribute('width');
  drawing.removeAttribute('height');
  const place = printedPlace();
  place.append(document.importNode(drawing, true));
  print(place);
}

function attribute(element: Element, name: string): string {
  return element.getAttribute(name) ?? '100';
}

async function vectorsOf(
  host: HTMLElement,
  placed: readonly PlacedCharts[],
  picture: Picture,
): Promise<string> {
  const { drawStrip, vectorDrawing } = await import('../../../chart/vector');
  const { width, height } = host.getBoundingClientRect();
  const size = sizeOf(width, height, picture);
  const { context, text } = vectorDrawing(size.width, size.height);
  drawAround(context, picture, size, height);
  for (const { left, top, charts } of placed) {
    let below = HEAD + top;
    for (const chart of charts) {
      drawStrip(context, chart, MARGIN + left, below);
      below += chart.height;
    }
  }
  return text();
}
