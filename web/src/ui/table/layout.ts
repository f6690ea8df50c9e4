/** Which columns of a table are shown, in which order and under which names: kept by the browser for each table. */
export interface ColumnChoice {
  id: string;
  isShown: boolean;
  /** The name a person gave it; '': its own. */
  name: string;
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
        ? [{ id: one.id, isShown: one.isShown !== false, name: typeof one.name === 'string' ? one.name : '' }]
        : [],
    );
  } catch {
    return [];
  }
}

export function keepLayout(key: string, layout: Layout): void {
  localStorage.setItem(PREFIX + key, JSON.stringify(layout));
}
