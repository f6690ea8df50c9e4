/** A trend as a document: versioned JSON, as sheets keep it. Its keys are those of the address. */
import { parseState, stateParams, type TrendState } from './state';

const VERSION = 2;
/** Parts that are JSON themselves; in an address they are texts. */
const INSIDE: readonly string[] = ['strips', 'look', 'made', 'display'];

/** What a sheet keeps: all but the sheet itself, and what may be done with it. */
export function documentText(state: TrendState): string {
  const params = stateParams({ ...state, sheet: null, allow: null });
  const parts = [...params].map(([key, value]): [string, unknown] => [
    key,
    INSIDE.includes(key) ? (JSON.parse(value) as unknown) : value,
  ]);
  return JSON.stringify({ version: VERSION, ...Object.fromEntries(parts) });
}

/** The trend of a document; sheets of version 1 hold an address instead. What cannot be used takes its default. */
export function readDocument(text: string): TrendState {
  if (!text.startsWith('{')) return parseState(new URLSearchParams(text));
  let found: Record<string, unknown>;
  try {
    found = JSON.parse(text) as Record<string, unknown>;
  } catch {
    return parseState(new URLSearchParams());
  }
  const params = new URLSearchParams();
  for (const [key, value] of Object.entries(found)) {
    if (typeof value === 'string') params.set(key, value);
    else if (INSIDE.includes(key)) params.set(key, JSON.stringify(value));
  }
  return parseState(params);
}

/** The address that shows a document. */
export function addressOf(text: string, sheet: string | null): string {
  return stateParams({ ...readDocument(text), sheet }).toString();
}
