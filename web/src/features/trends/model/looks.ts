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
  /** The pen whose scale it shares: a measurement and its set point on one. */
  scaleOf?: string;
  /** A logarithmic scale. */
  log?: boolean;
  /** Which axis shows its scale; without it the left one. */
  axis?: Axis;
  /** 1: opaque. */
  alpha?: number;
  dash?: boolean;
  /** How it reads between its samples, where not as its tag says. */
  stepped?: boolean;
  decimals?: number;
  /** In place of the tag's name. */
  legend?: string;
  /** Name of the archive it is read from; without it the fitting one. */
  archive?: string;
  /** Of a contact: it is drawn over the curves of its strip, not in a row of its own. */
  over?: boolean;
}

export const AXES = ['right', 'none'] as const;
export type Axis = (typeof AXES)[number];

export type Looks = Readonly<Record<string, PenLook>>;

const COLOUR = /^#[0-9a-fA-F]{6}$/;
const UID = /^[0-9a-f-]{36}$/;
const MOST_LINES = 8;
const MOST_GUIDES = 4;
const MOST_DECIMALS = 8;
const LONGEST_LEGEND = 80;
const LONGEST_NAME = 200;

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

type Plain = Record<string, unknown>;

function parseLook(found: unknown): PenLook {
  if (typeof found !== 'object' || found === null) return {};
  const details = found as Plain;
  return { ...scaleLook(details), ...lineLook(details), ...textLook(details) };
}

function scaleLook(found: Plain): PenLook {
  const { low, high, lines, lowTag, highTag, guides, scaleOf, log, axis } = found;
  const look: PenLook = {};
  if (isNumber(low) && isNumber(high) && low < high) Object.assign(look, { low, high });
  if (Array.isArray(lines) && lines.some(isNumber)) look.lines = lines.filter(isNumber).slice(0, MOST_LINES);
  if (isUid(lowTag)) look.lowTag = lowTag;
  if (isUid(highTag)) look.highTag = highTag;
  if (isUid(scaleOf)) look.scaleOf = scaleOf;
  if (Array.isArray(guides) && guides.some(isUid)) {
    look.guides = [...new Set(guides.filter(isUid))].slice(0, MOST_GUIDES);
  }
  if (log === true) look.log = true;
  const shown = AXES.find((one) => one === axis);
  if (shown !== undefined) look.axis = shown;
  return look;
}

function lineLook({ colour, width, draw, guide, alpha, dash, stepped, over }: Plain): PenLook {
  const look: PenLook = {};
  if (typeof colour === 'string' && COLOUR.test(colour)) look.colour = colour;
  if (isNumber(width) && width >= 0.5 && width <= 6) look.width = width;
  const drawn = DRAWN.find((one) => one === draw);
  if (drawn !== undefined && drawn !== 'line') look.draw = drawn;
  if (guide === true) look.guide = true;
  if (isNumber(alpha) && alpha >= 0.1 && alpha < 1) look.alpha = alpha;
  if (dash === true) look.dash = true;
  if (over === true) look.over = true;
  if (typeof stepped === 'boolean') look.stepped = stepped;
  return look;
}

function textLook({ decimals, legend, archive }: Plain): PenLook {
  const look: PenLook = {};
  if (isNumber(decimals) && Number.isInteger(decimals) && decimals >= 0 && decimals <= MOST_DECIMALS) {
    look.decimals = decimals;
  }
  if (typeof legend === 'string' && legend.trim() !== '') look.legend = legend.slice(0, LONGEST_LEGEND);
  if (typeof archive === 'string' && archive !== '') look.archive = archive.slice(0, LONGEST_NAME);
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

/** One pen's look changed; a field that is undefined follows the tag again. */
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

/** All tags that a trend follows beside its pens: those of looks, and the one that refreshes it. */
export function besidePens(looks: Looks, pens: readonly string[], trigger: string | null): string[] {
  const found = helpersOf(looks, pens);
  return trigger === null || [...pens, ...found].includes(trigger) ? found : [...found, trigger];
}

/** The archives that are chosen for these tags, as the server is told of them. */
export function archivesOf(looks: Looks, tags: readonly string[]): string[] {
  return tags.flatMap((uid) => {
    const { archive } = looks[uid] ?? {};
    return archive === undefined ? [] : [`${uid}:${archive}`];
  });
}

/** Looks without those of tags that are gone, and without what speaks of such tags. */
export function withoutTags(looks: Looks, gone: readonly string[]): Looks {
  const there = (uid: string | undefined): string | undefined =>
    uid === undefined || gone.includes(uid) ? undefined : uid;
  return Object.keys(looks)
    .filter((uid) => !gone.includes(uid))
    .reduce((kept: Looks, uid) => {
      const look = looks[uid] ?? {};
      const guides = look.guides?.filter((one) => !gone.includes(one));
      return withLook(kept, uid, {
        ...look,
        lowTag: there(look.lowTag),
        highTag: there(look.highTag),
        scaleOf: there(look.scaleOf),
        guides,
      });
    }, {});
}

/** Looks that speak of other tags in the place of these; a name of its own names the other equipment then. */
export function exchanged(
  looks: Looks,
  others: ReadonlyMap<string, string>,
  [from, to]: readonly [string, string] = ['', ''],
): Looks {
  const of = (uid: string | undefined): string | undefined =>
    uid === undefined ? undefined : (others.get(uid) ?? uid);
  const moved = Object.entries(looks).map(([uid, look]) => [
    of(uid),
    {
      ...look,
      lowTag: of(look.lowTag),
      highTag: of(look.highTag),
      scaleOf: of(look.scaleOf),
      guides: look.guides?.map(of),
      legend: from === '' ? look.legend : look.legend?.replaceAll(from, to),
    },
  ]);
  return parseLooks(JSON.stringify(Object.fromEntries(moved)));
}

/** The pen whose scale a pen has: its own, or that of the one it shares it with, where that is there. Those that name each
 * other in a ring have their own. */
export function scaleOwner(looks: Looks, uid: string, has: (uid: string) => boolean): string {
  const seen = [uid];
  for (;;) {
    const next = looks[seen.at(-1) ?? uid]?.scaleOf;
    if (next === undefined || !has(next)) return seen.at(-1) ?? uid;
    if (seen.includes(next)) return uid;
    seen.push(next);
  }
}

/** A new pen is drawn as the last one was, as far as that is a matter of taste. */
export function likeTheLast(looks: Looks, uids: readonly string[], uid: string): Looks {
  const { width, alpha, dash } = looks[uids.at(-1) ?? ''] ?? {};
  return withLook(looks, uid, { width, alpha, dash });
}
