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
}

export type Looks = Readonly<Record<string, PenLook>>;

const COLOUR = /^#[0-9a-fA-F]{6}$/;
const UID = /^[0-9a-f-]{36}$/;
const MOST_LINES = 8;

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
  const { low, high, colour, width, draw, guide, lines } = found as Record<string, unknown>;
  const look: PenLook = {};
  if (isNumber(low) && isNumber(high) && low < high) Object.assign(look, { low, high });
  if (typeof colour === 'string' && COLOUR.test(colour)) look.colour = colour;
  if (isNumber(width) && width >= 0.5 && width <= 6) look.width = width;
  const drawn = DRAWN.find((one) => one === draw);
  if (drawn !== undefined && drawn !== 'line') look.draw = drawn;
  if (guide === true) look.guide = true;
  if (Array.isArray(lines) && lines.some(isNumber)) look.lines = lines.filter(isNumber).slice(0, MOST_LINES);
  return look;
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
