/** How a sheet is shown, apart from its pens and strips; travels in the link as far as it is not as usual. */
export const TIMES = ['clock', 'day', 'elapsed'] as const;
export const TICKS = ['usual', 'few', 'many'] as const;
export const GROUNDS = ['page', 'plain', 'grey', 'cool'] as const;
export const AXIS_COLOURS = ['pen', 'quiet', 'ink', 'accent'] as const;
export const NAMES = ['short', 'name', 'description', 'equipment'] as const;
export const CARD_PARTS = ['scale', 'recording', 'description', 'equipment', 'archive'] as const;
export type Names = (typeof NAMES)[number];
export type CardPart = (typeof CARD_PARTS)[number];

export interface Display {
  /** What the time axis says: the clock, day and clock, or the time since the window's start. */
  times: (typeof TIMES)[number];
  /** How many ticks the axis of time has. */
  ticks: (typeof TICKS)[number];
  ground: (typeof GROUNDS)[number];
  /** The colour of the axes' texts; `pen`: that of the pen whose scale it is. */
  axisColour: (typeof AXIS_COLOURS)[number];
  /** What pens are called that have no name of their own. */
  names: Names;
  /** What a card says below the name, in this order. */
  card: readonly CardPart[];
  grid: boolean;
  /** The axes have texts. */
  axes: boolean;
  /** The pens are listed beside the plot. */
  drawer: boolean;
  /** A drag over the plot zooms both axes. */
  area: boolean;
}

export const USUAL: Display = {
  times: 'clock',
  ticks: 'usual',
  ground: 'page',
  axisColour: 'pen',
  names: 'short',
  card: ['scale', 'recording'],
  grid: true,
  axes: true,
  drawer: true,
  area: false,
};

/** The display in a link; what cannot be used is as usual. */
export function parseDisplay(text: string | null): Display {
  if (text === null) return USUAL;
  let found: Record<string, unknown>;
  try {
    found = { ...(JSON.parse(text) as object) };
  } catch {
    return USUAL;
  }
  const one = <T extends string>(all: readonly T[], value: unknown): T =>
    all.find((known) => known === value) ?? (all[0] as T);
  const not = (value: unknown): boolean => value !== false;
  const { card } = found;
  return {
    times: one(TIMES, found['times']),
    ticks: one(TICKS, found['ticks']),
    ground: one(GROUNDS, found['ground']),
    axisColour: one(AXIS_COLOURS, found['axisColour']),
    names: one(NAMES, found['names']),
    card: Array.isArray(card) ? known(card) : USUAL.card,
    grid: not(found['grid']),
    axes: not(found['axes']),
    drawer: not(found['drawer']),
    area: found['area'] === true,
  };
}

/** Each part once, in the order that was given. */
function known(parts: readonly unknown[]): CardPart[] {
  const found = parts.flatMap((part) => CARD_PARTS.find((one) => one === part) ?? []);
  return [...new Set(found)];
}

/** The display as it travels; nothing where it is as usual. */
export function displayText(display: Display): string | null {
  const other = Object.entries(display).filter(
    ([key, value]) => JSON.stringify(value) !== JSON.stringify(USUAL[key as keyof Display]),
  );
  return other.length === 0 ? null : JSON.stringify(Object.fromEntries(other));
}
