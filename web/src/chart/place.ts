/** Where a moment and a value lie on a plot, in canvas pixels. */
import { shareOf, type Pen } from './curve';

export interface Plot {
  context: CanvasRenderingContext2D;
  left: number;
  top: number;
  width: number;
  height: number;
  ratio: number;
  startUs: number;
  endUs: number;
  /** Texts are to be read at a distance. */
  large: boolean;
}

export function x(plot: Plot, t: number): number {
  return plot.left + ((t - plot.startUs) / (plot.endUs - plot.startUs)) * plot.width;
}

export function y(plot: Plot, pen: Pen, v: number): number {
  return plot.top + (1 - shareOf(pen, v)) * plot.height;
}
