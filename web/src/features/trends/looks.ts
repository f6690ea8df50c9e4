/** How single pens look, as far as it differs from what their tags say; travels in the link. */
export const DRAWN = ['line', 'area', 'points'] as const;
export type Drawn = (typeof DRAWN)[number];

export interface PenLook {
  /** A fixed scale; without both ends the one of all pens. */
  low?: number;
  high?: number;
  /** #RRGGBB */
  colour?: string;
  /** In CSS pixels. */
  width?: number;
  draw?: Drawn;
  /** A limit or set point: dashed and lighter than a measurement. */
  guide?: boolean;
  /** Constants drawn as guide lines on the pen's scale. */
  lines?: number[];
  /** Tags whose values are the ends of the scale, in place of `low` and `high`. */
  lowTag?: string;
  highTag?: string;
  /** Tags drawn as guide lines on the pen's scale. */
  guides?: string[];
  /** A logarithmic scale. */
  log?: boolean;
}

export type Looks = Readonly<Record<string, PenLook>>;

const COLOUR = /^#[0-9a-fA-F]{6}$/;
const UID = /^[0-9a-f-]{36}$/;
const MOST_LINES = 8;
const MOST_GUIDES = 4;

/** The looks in a link; what cannot be used is left out. */
export function parseLooks(text: string | null): Looks {
  if (text === null) return {};
  try {
    const found = JSON.parse(text) as unknown;
    if (typeof found !== 'object' || found === null) return {};
    const looks = Object.entries(found)
      .filter(([uid]) => UID.test(uid))
      .map(([uid, look]) => [uid, parseLook(look)] as const)
      .filter(([, look]) => Object.keys(look).length > 0);
    return Object.fromEntries(looks);
  } catch {
    return {};
  }
}

function parseLook(found: unknown): PenLook {
  if (typeof found !== 'object' || found === null) return {};
  const { low, high, colour, width, draw, guide, lines, lowTag, highTag, guides, log } = found as Record<
    string,
    unknown
  >;
  const look: PenLook = {};
  if (isNumber(low) && isNumber(high) && low < high) Object.assign(look, { low, high });
  if (typeof colour === 'string' && COLOUR.test(colour)) look.colour = colour;
  if (isNumber(width) && width >= 0.5 && width <= 6) look.width = width;
  const drawn = DRAWN.find((one) => one === draw);
  if (drawn !== undefined && drawn !== 'line') look.draw = drawn;
  if (guide === true) look.guide = true;
  if (Array.isArray(lines) && lines.some(isNumber)) look.lines = lines.filter(isNumber).slice(0, MOST_LINES);
  if (isUid(lowTag)) look.lowTag = lowTag;
  if (isUid(highTag)) look.highTag = highTag;
  if (Array.isArray(guides) && guides.some(isUid)) {
    look.guides = [...new Set(guides.filter(isUid))].slice(0, MOST_GUIDES);
  }
  if (log === true) look.log = true;
  return look;
}

function isUid(value: unknown): value is string {
  return typeof value === 'string' && UID.test(value);
}

function isNumber(value: unknown): value is number {
  return typeof value === 'number' && Number.isFinite(value);
}

/** The looks as they travel; nothing when every pen looks as its tag says. */
export function looksText(looks: Looks): string | null {
  const plain = parseLooks(JSON.stringify(looks));
  return Object.keys(plain).length === 0 ? null : JSON.stringify(plain);
}

/** One pen's look changed; a fact that is undefined follows the tag again. */
export function withLook(looks: Looks, uid: string, change: Partial<Record<keyof PenLook, unknown>>): Looks {
  const merged = { ...looks[uid], ...change };
  return parseLooks(JSON.stringify({ ...looks, [uid]: merged }));
}

/** The tags that the looks of these pens need beside the pens: ends of scales and guide lines. */
export function helpersOf(looks: Looks, pens: readonly string[]): string[] {
  const found = pens.flatMap((uid) => {
    const { lowTag, highTag, guides = [] } = looks[uid] ?? {};
    return [lowTag, highTag, ...guides].filter((one) => one !== undefined);
  });
  return [...new Set(found)].filter((uid) => !pens.includes(uid)).sort();
}

/** Looks that speak of other tags in the place of these. */
export function exchanged(looks: Looks, others: ReadonlyMap<string, string>): Looks {
  const of = (uid: string | undefined): string | undefined =>
    uid === undefined ? undefined : (others.get(uid) ?? uid);
  const moved = Object.entries(looks).map(([uid, look]) => [
    of(uid),
    { ...look, lowTag: of(look.lowTag), highTag: of(look.highTag), guides: look.guides?.map(of) },
  ]);
  return parseLooks(JSON.stringify(Object.fromEntries(moved)));
}
