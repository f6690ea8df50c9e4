/** Which columns of a table are shown, in which order and under which names: kept by the browser for each table. */
export interface ColumnChoice {
  id: string;
  isShown: boolean;
  /** The name a person gave it; '': its own. */
  name: string;
  /** Decimals of its numbers, where other ones are wanted than they have. */
  digits?: number;
}

export const MOST_DIGITS = 12;

/** Decimals as they were typed or kept; what is none is not said. */
export function digitsOf(value: unknown): { digits?: number } {
  const digits = typeof value === 'string' && value.trim() !== '' ? Number(value) : value;
  const isUsable =
    typeof digits === 'number' && Number.isInteger(digits) && digits >= 0 && digits <= MOST_DIGITS;
  return isUsable ? { digits } : {};
}

export type Layout = readonly ColumnChoice[];

const PREFIX = 'cronaca.table.';

/** The choices for the columns there are: those that were kept in their order, then what has come since. */
export function layoutFor(ids: readonly string[], kept: Layout): Layout {
  const known = kept.filter((choice) => ids.includes(choice.id));
  const fresh = ids.filter((id) => !known.some((choice) => choice.id === id));
  return [...known, ...fresh.map((id) => ({ id, isShown: true, name: '' }))];
}

/** One column exchanged with its neighbour. */
export function moved(layout: Layout, id: string, by: 1 | -1): Layout {
  const at = layout.findIndex((choice) => choice.id === id);
  const other = layout[at + by];
  const one = layout[at];
  if (one === undefined || other === undefined) return layout;
  return layout.map((choice, i) => (i === at ? other : i === at + by ? one : choice));
}

/** A column with other decimals, or with its own again. */
export function withDigits(layout: Layout, id: string, typed: string): Layout {
  return layout.map(({ digits, ...choice }) =>
    choice.id === id ? { ...choice, ...digitsOf(typed) } : { ...choice, ...digitsOf(digits) },
  );
}

export function changed(layout: Layout, id: string, change: Partial<ColumnChoice>): Layout {
  return layout.map((choice) => (choice.id === id ? { ...choice, ...change } : choice));
}

/** What the browser kept; what cannot be read is nothing. */
export function readLayout(key: string): Layout {
  try {
    const found = JSON.parse(localStorage.getItem(PREFIX + key) ?? '[]') as unknown;
    if (!Array.isArray(found)) return [];
    return found.flatMap((one: Partial<ColumnChoice> | null): ColumnChoice[] =>
      typeof one?.id === 'string'
        ? [
            {
              id: one.id,
              isShown: one.isShown !== false,
              name: typeof one.name === 'string' ? one.name : '',
              ...digitsOf(one.digits),
            },
          ]
        : [],
    );
  } catch {
    return [];
  }
}

export function keepLayout(key: string, layout: Layout): void {
  localStorage.setItem(PREFIX + key, JSON.stringify(layout));
}
