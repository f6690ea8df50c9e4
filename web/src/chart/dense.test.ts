import { describe, expect, it } from 'vitest';
import type { Pen } from './curve';
import { isDense, paintDense } from './dense';
import type { Plot } from './place';

/** What a context was told, as far as a dense curve tells it. */
function drawing() {
  const bars: number[][] = [];
  const lines: number[][] = [];
  let from: number[] = [];
  const context = {
    lineWidth: 1,
    globalAlpha: 1,
    setLineDash: () => undefined,
    beginPath: () => undefined,
    stroke: () => undefined,
    fillRect: (...bar: number[]) => bars.push(bar),
    moveTo: (...at: number[]) => (from = at),
    lineTo: (...to: number[]) => lines.push([...from, ...to]),
  } as unknown as CanvasRenderingContext2D;
  return { context, bars, lines };
}

function plotOf(context: CanvasRenderingContext2D): Plot {
  return { context, left: 0, top: 0, width: 10, height: 100, ratio: 1, startUs: 0, endUs: 100, large: false };
}

function pen(t: number[], v: number[], q: number[] = t.map(() => 0)): Pen {
  const columns = { t: Float64Array.from(t), v: Float64Array.from(v), q: Uint16Array.from(q) };
  return { columns, low: 0, high: 100, log: false, stepped: false, heldUntilUs: 0 } as unknown as Pen;
}

describe('a dense curve', () => {
  it('has a bar in each column from its lowest to its highest value, joined to the column before', () => {
    const { context, bars, lines } = drawing();
    // Ten microseconds are a column: the spike to 90 lies in the second one.
    paintDense(plotOf(context), pen([0, 5, 11, 15, 18, 22, 28], [10, 20, 15, 90, 30, 40, 50]));
    // Half a line beyond the values, on whole pixels.
    const spans = bars.map(([left = 0, top = 0, , height = 0]) => [left, top, top + height]);
    expect(spans).toEqual([
      [0, 79, 91],
      [1, 9, 86],
      [2, 49, 71],
    ]);
    expect(lines.length).toBe(1);
    expect(lines[0]?.[0]).toBeCloseTo(2.8, 9);
  });

  it('bridges empty columns by a line and no bad stretch', () => {
    const { context, bars, lines } = drawing();
    paintDense(plotOf(context), pen([0, 40, 60, 80], [10, 20, NaN, 30], [0, 0, 0x8000, 0]));
    expect(bars.length).toBe(3);
    expect(lines).toEqual([
      [0, 90, 4, 80],
      [4, 80, 6, 80],
      [8, 70, 8, 70],
    ]);
  });

  it('is one with more samples in view than pixel columns', () => {
    const { context } = drawing();
    const many = Array.from({ length: 12 }, (_, i) => i * 8);
    expect(isDense(plotOf(context), pen(many, many))).toBe(true);
    expect(isDense(plotOf(context), pen([0, 50], [1, 2]))).toBe(false);
  });
});
