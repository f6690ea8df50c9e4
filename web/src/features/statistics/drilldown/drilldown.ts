/** Pictures of a figure: what is drawn where, on one scale for all pieces. */
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import type { StretchKind } from '../../../domain/sheets';
import type { components } from '../../../platform/schema';
import type { Span } from '../../../domain/time';

type Schemas = components['schemas'];
export type Drilldown = Schemas['DrilldownOut'];
type Place = Schemas['OverTimeOut']['places'][number];

export { STRETCHES as PERS } from '../../../domain/sheets';
export type Per = StretchKind;

export const PICTURES = ['over time', 'spread', 'scatter', 'parts', 'states'] as const;
export type Picture = (typeof PICTURES)[number];

const OFF: readonly Place[] = ['far below', 'below', 'above', 'far above'];

export interface Bar {
  /** From 0 to 1 of the width, and of the height from below. */
  x: number;
  width: number;
  y: number;
  height: number;
  off: boolean;
}

export interface BandBox {
  x: number;
  width: number;
  y: number;
  height: number;
}

/** What is looked at: the tags of pieces, by their names. */
export interface DrilldownLook {
  member: string;
  stat: string;
  decimals: number;
  /** Its states are off and on. */
  contact: boolean;
  pieces: readonly { name: string; tag: string }[];
  range: Span;
}

export interface DrawnProps {
  found: Drilldown;
  look: DrilldownLook;
  sorted: boolean;
  zone: string;
}

/** The pictures that this figure has. */
export function picturesOf(found: Drilldown): Picture[] {
  const there: Record<Picture, boolean> = {
    'over time': found.starts_us.length > 1,
    spread: found.boxes.length > 0,
    scatter: found.boxes.length > 0,
    parts: found.parts.length > 0,
    states: found.timelines.length > 0,
  };
  return PICTURES.filter((one) => there[one]);
}

/** The bars of one piece; a stretch without a figure has none. */
export function barsOf(found: Drilldown, place: number): Bar[] {
  const of = found.over_time[place];
  if (of === undefined) return [];
  return slots(found).flatMap((slot, i): Bar[] => {
    const value = of.values[i];
    if (value == null) return [];
    const zero = shareOf(found, Math.max(0, found.low));
    const top = shareOf(found, value);
    const [y, height] = [Math.min(zero, top), Math.abs(top - zero)];
    const gap = slot.width * 0.15;
    return [
      {
        x: slot.x + gap,
        width: slot.width - 2 * gap,
        y,
        height: Math.max(height, 0.01),
        off: OFF.includes(of.places[i] ?? 'normal'),
      },
    ];
  });
}

/** What is normal behind the bars, stretch by stretch; the same for all pieces. */
export function bandsOf(found: Drilldown): BandBox[] {
  return slots(found).flatMap((slot, i): BandBox[] => {
    const band = found.bands[i];
    if (band == null) return [];
    const low = Math.max(shareOf(found, band.low), 0);
    return [{ ...slot, y: low, height: Math.max(Math.min(shareOf(found, band.high), 1) - low, 0.01) }];
  });
}

/** How many stretches of a piece lie off what is normal, in words. What an end of the window cuts short is drawn
 * but not counted: as the window goes on it would come and go. */
export function offWords(found: Drilldown, place: number): string {
  const places = countedPlaces(found, place);
  const off = places.filter((one) => OFF.includes(one)).length;
  return off === 0 ? wording.normal : fill(wording.notNormalInOffOfCount, { off, count: places.length });
}

function countedPlaces(found: Drilldown, place: number): Place[] {
  const widths = slots(found).map((slot) => slot.width * 1.001);
  const places = found.over_time[place]?.places ?? [];
  if (widths.length < 3) return places;
  const shorter = (i: number, than: number): boolean => (widths[i] ?? 0) < (widths[than] ?? 0) / 1.001;
  const last = widths.length - 1;
  return places.filter((_, i) => !(i === 0 && shorter(0, 1)) && !(i === last && shorter(last, last - 1)));
}

/** Places of the pieces, those with the most stretches that are off first. */
export function inOrder(found: Drilldown, sorted: boolean): number[] {
  const places = found.over_time.map((_, i) => i);
  const off = (i: number): number => countedPlaces(found, i).filter((one) => OFF.includes(one)).length;
  return sorted ? places.sort((a, b) => off(b) - off(a) || a - b) : places;
}

function slots(found: Drilldown): { x: number; width: number }[] {
  const [start, end] = [Number(found.window.start_us), Number(found.window.end_us)];
  const starts = found.starts_us.map(Number);
  return starts.map((us, i) => ({
    x: (us - start) / (end - start),
    width: ((starts[i + 1] ?? end) - us) / (end - start),
  }));
}

/** Where a value lies on the scale of all pieces, from 0 to 1. */
export function shareOf({ low, high }: Pick<Drilldown, 'low' | 'high'>, value: number): number {
  return (value - low) / (high - low);
}

export interface BoxPlaces {
  low: number;
  lower: number;
  median: number;
  upper: number;
  high: number;
}

/** The boxes on the scale from the least to the greatest value of all. */
export function boxPlaces(found: Drilldown, tag: string): BoxPlaces | null {
  const box = found.boxes.find((one) => one.tag === tag);
  if (box === undefined) return null;
  const low = Math.min(...found.boxes.map((one) => one.low));
  const high = Math.max(...found.boxes.map((one) => one.high));
  const at = (value: number): number => (high > low ? (value - low) / (high - low) : 0.5);
  return {
    low: at(box.low),
    lower: at(box.lower_quartile),
    median: at(box.median),
    upper: at(box.upper_quartile),
    high: at(box.high),
  };
}

export type ScatterPair = Schemas['ScatterPairOut'];
type Scatter = Schemas['ScatterOut'];

export interface NamedPair {
  name: string;
  x: string;
  y: string;
}

/** The tag that is looked at and another one, of each piece that has both. */
export function pairsOf(
  look: Pick<DrilldownLook, 'pieces'>,
  kind: Pick<Schemas['KindOut'], 'equipment'>,
  other: Schemas['MemberOut'],
): NamedPair[] {
  return look.pieces.flatMap(({ name, tag }) => {
    const y = other.tags[kind.equipment.indexOf(name)];
    return y == null ? [] : [{ name, x: tag, y }];
  });
}

export interface Dot {
  key: string;
  /** From 0 to 1 on both scales, and from the window's beginning to its end. */
  x: number;
  y: number;
  age: number;
}

/** The instants at which both have a value. */
export function dotsOf(found: Scatter, pair: ScatterPair): Dot[] {
  return found.times_us.flatMap((key, i): Dot[] => {
    const [x, y] = [pair.xs[i], pair.ys[i]];
    if (x == null || y == null) return [];
    return [
      {
        key,
        x: shareOf({ low: found.low_x, high: found.high_x }, x),
        y: shareOf({ low: found.low_y, high: found.high_y }, y),
        age: found.times_us.length > 1 ? i / (found.times_us.length - 1) : 1,
      },
    ];
  });
}

/** How closely two tags go together, in words. */
export function relationText({ correlation }: Pick<ScatterPair, 'correlation'>): string {
  return correlation === null ? wording.oneOfThemIsConstant : `r ${correlation.toFixed(2)}`;
}
