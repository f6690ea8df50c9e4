/** Pens that are no tag: made from a formula over tags, or from a column of a logger's records. */
import * as wording from 'texts/trends.json';
import type { Tag } from '../../../platform/client';
import type { MadePenIn } from '../../../entities/curves';

export interface MadePen {
  name: string;
  unit: string;
  low: number;
  high: number;
  formula: string;
  /** Uids of its inputs by their names in the formula. */
  inputs: Readonly<Record<string, string>>;
  /** Uid of the logger whose records it shows; nothing: it is a formula. */
  logger: string;
  column: number;
}

export type MadePens = Readonly<Record<string, MadePen>>;

const UID = /^[0-9a-f-]{36}$/;
const MOST_MADE = 16;
const LONGEST = 500;

/** The made pens in a link; what cannot be used is left out. */
export function parseMade(text: string | null): MadePens {
  if (text === null) return {};
  try {
    const found = JSON.parse(text) as unknown;
    if (typeof found !== 'object' || found === null) return {};
    const pens = Object.entries(found)
      .filter(([uid]) => UID.test(uid))
      .slice(0, MOST_MADE)
      .map(([uid, pen]) => [uid, parsePen(pen)] as const);
    return Object.fromEntries(pens.filter(([, pen]) => pen.formula !== '' || pen.logger !== ''));
  } catch {
    return {};
  }
}

function parsePen(found: unknown): MadePen {
  const details = (typeof found === 'object' && found !== null ? found : {}) as Record<string, unknown>;
  const text = (value: unknown): string => (typeof value === 'string' ? value.slice(0, LONGEST) : '');
  const { low, high, column, inputs } = details;
  const usable = typeof low === 'number' && typeof high === 'number' && low < high;
  const named = typeof inputs === 'object' && inputs !== null ? Object.entries(inputs) : [];
  return {
    name: text(details['name']),
    unit: text(details['unit']),
    low: usable ? low : 0,
    high: usable ? high : 100,
    formula: text(details['formula']),
    inputs: Object.fromEntries(
      named.filter((one): one is [string, string] => typeof one[1] === 'string' && UID.test(one[1])),
    ),
    logger: UID.test(text(details['logger'])) ? text(details['logger']) : '',
    column: typeof column === 'number' ? column : 0,
  };
}

export function madeText(made: MadePens): string | null {
  return Object.keys(made).length === 0 ? null : JSON.stringify(made);
}

/** What the server is asked for. */
export function wanted(uid: string, { formula, inputs, logger, column }: MadePen): MadePenIn {
  return { id: uid, formula, inputs: { ...inputs }, logger: logger === '' ? null : logger, column };
}

/** A made pen in the form of a tag: so it is drawn and listed as one. */
export function asTag(uid: string, pen: MadePen): Tag {
  return {
    uid,
    name: pen.name,
    description: pen.formula === '' ? wording.fromRecords : pen.formula,
    value_type: 'float',
    unit: pen.unit,
    range_low: pen.low,
    range_high: pen.high,
    decimals: decimalsFor(pen.high - pen.low),
    stepped: false,
    equipment: '',
    source: '',
    recorded: [],
    writable: false,
    states: {},
    colour: '',
  };
}

/** Enough to tell a thousandth of a range apart. */
function decimalsFor(length: number): number {
  return Math.min(Math.max(2 - Math.floor(Math.log10(length)), 0), 6);
}
