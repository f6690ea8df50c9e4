/** The strips of a trend under each other: one for the pens, a thin one for the contacts. */
import type { ContactRow, Pen, TimeChartProps } from '../../chart';
import type { Span } from '../../shared/lib/time';
import type { Tokens } from '../../shared/lib/tokens';
import type { Scales } from './state';

const CONTACT_ROW = 26;
const TIMES = 46;

export interface StripParts {
  pens: readonly Pen[];
  contacts: readonly ContactRow[];
  selected: Pen | undefined;
  scales: Scales;
  span: Span;
  zone: string;
  size: { width: number; height: number };
  tokens: Tokens;
}

export function stripsOf(parts: StripParts): TimeChartProps[] {
  const { pens, contacts, selected, scales, span, zone, size, tokens } = parts;
  const contactHeight = contacts.length > 0 ? contacts.length * CONTACT_ROW + TIMES + 10 : 0;
  const shared = { ...span, zone, width: size.width, ink: chartInk(tokens) };
  const scaleOf = scales === 'percent' ? percentOf(selected, tokens) : selected;
  const height = Math.max(size.height - contactHeight, 120);
  return [
    ...(pens.length > 0 ? [{ ...shared, height, pens, scaleOf, showTimes: contacts.length === 0 }] : []),
    ...(contacts.length > 0 ? [{ ...shared, height: contactHeight, contacts, showTimes: true }] : []),
  ];
}

/** The axis of pens that each have their own range: 0 to 100 %. */
function percentOf(pen: Pen | undefined, tokens: Tokens): Pen | undefined {
  return pen === undefined ? undefined : { ...pen, low: 0, high: 100, log: false, colour: tokens.quiet };
}

const inks = new Map<Tokens, TimeChartProps['ink']>();

/** The same object for the same theme: the chart is made anew when it changes. */
function chartInk(tokens: Tokens): TimeChartProps['ink'] {
  let found = inks.get(tokens);
  if (found === undefined) {
    found = { ink: tokens.ink, quiet: tokens.quiet, surface: tokens.surface, rule: tokens.rule };
    inks.set(tokens, found);
  }
  return found;
}
