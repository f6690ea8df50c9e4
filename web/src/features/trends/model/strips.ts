/** The charts of one strip under each other: its pens, and a thin one for its contacts. */
import type { ChartInk, ChartLook, ContactRow, Pen, TimeChartProps } from '../../../chart';
import type { Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import type { Display } from './display';
import type { Scales } from './state';

const CONTACT_ROW = 26;
const TIMES = 46;
const LEAST = 90;

export interface StripParts {
  pens: readonly Pen[];
  contacts: readonly ContactRow[];
  /** The pen brought forward, wherever it is. */
  selected: string | null;
  scales: Scales;
  span: Span;
  zone: string;
  size: { width: number; height: number };
  gutterRight: number;
  large: boolean;
  tokens: Tokens;
  ink: ChartInk;
  look: ChartLook;
}

export function stripsOf(parts: StripParts): TimeChartProps[] {
  const { pens, selected, scales, span, zone, size, gutterRight, large, tokens, ink, look } = parts;
  const contacts = parts.contacts.filter((row) => row.isOver !== true || pens.length === 0);
  const over = parts.contacts.filter((row) => !contacts.includes(row));
  const contactHeight = contacts.length > 0 ? contacts.length * CONTACT_ROW + TIMES + 10 : 0;
  const shared = { ...span, zone, width: size.width, gutterRight, large, ink, look };
  const axis = (side: Pen['axis']): Pen | undefined => {
    const pen = axisPen(pens, selected, side);
    return scales === 'percent' ? percentOf(pen, tokens) : pen;
  };
  const axes = { scaleOf: axis('left'), rightOf: axis('right') };
  const height = Math.max(size.height - contactHeight, LEAST);
  return [
    ...(pens.length > 0 || contacts.length === 0
      ? [{ ...shared, ...axes, height, pens, over, showTimes: contacts.length === 0 }]
      : []),
    ...(contacts.length > 0 ? [{ ...shared, height: contactHeight, contacts, showTimes: true }] : []),
  ];
}

/** The pen whose scale an axis shows: the selected one, else the first one with its scale on that side. */
export function axisPen(pens: readonly Pen[], selected: string | null, side: Pen['axis']): Pen | undefined {
  const found = pens.filter((pen) => pen.axis === side && pen.number > 0);
  return found.find((pen) => pen.id === selected) ?? found[0];
}

/** The axis of pens that each have their own range: 0 to 100 %. */
function percentOf(pen: Pen | undefined, tokens: Tokens): Pen | undefined {
  return pen === undefined ? undefined : { ...pen, low: 0, high: 100, log: false, colour: tokens.quiet };
}

/** The colours of a chart: another object means that it is made anew. */
export function chartInk(tokens: Tokens, { ground, axisColour }: Display): ChartInk {
  const { ink, quiet, surface, rule, accent, grounds } = tokens;
  return {
    ...{ ink, quiet, surface, rule },
    ...(ground !== 'page' && { ground: grounds[ground] }),
    ...(axisColour !== 'pen' && { axis: { quiet, ink, accent }[axisColour] }),
  };
}

/** What of the axes a strip shows. */
export function chartLook({ grid, axes, times, ticks }: Display, hasGrid: boolean): ChartLook {
  return { grid: grid && hasGrid, axes, times, ticks };
}
