/** From tags, curves and live samples to what is drawn and shown. */
import type { Curve } from '../../../entities/curves';
import type { Tag } from '../../../platform/client';
import type { LiveSamples, LiveValue } from '../../../platform/liveMessages';
import { appended, indexAt, type Columns, type ContactRow, type Pen } from '../../../chart/curve';
import { equipmentOf } from '../../../domain/equipment';
import type { Scalar } from '../../../domain/format';
import { isBad } from '../../../domain/quality';
import type { Names } from './display';
import type { Looks, PenLook } from './looks';
import type { MadePens } from './made';
import { tailKey, type LiveSnapshot } from '../data/useLive';

export interface Blank {
  startUs: number;
  endUs: number;
  reason: string;
  detail: string;
}

/** One tag of a trend with all that is known of it in the window. */
export interface Trace {
  tag: Tag;
  /** Without the line when all tags of the trend belong to the same one. */
  name: string;
  number: number;
  contact: boolean;
  columns: Columns;
  heldUntilUs: number;
  blanks: Blank[];
  samples: number;
  /** What it comes from; what is no tag has no figures and no files. */
  origin: 'tag' | 'formula' | 'records';
  /** Calculated from reduced inputs: an extreme between them may be missing. */
  thinned: boolean;
  /** When its history begins, µs; 0: there is none. */
  recordedSinceUs: number;
  /** The newest sample that is known of, µs. */
  lastUs: number;
}

const NOTHING: Columns = { t: new Float64Array(), v: new Float64Array(), q: new Uint16Array() };

export function isContact(tag: Tag): boolean {
  return tag.value_type === 'boolean';
}

/** Joins curve and live samples; numbers count analog pens only. */
export function traces(
  tags: readonly Tag[],
  curves: ReadonlyMap<string, Curve>,
  live: Pick<LiveSnapshot, 'tails' | 'memories' | 'knownUntilUs' | 'ahead'>,
  looks: Looks = {},
  made: MadePens = {},
  names: Names = 'short',
): Trace[] {
  const { tails, memories, knownUntilUs, ahead } = live;
  let number = 0;
  const oneLine = new Set(tags.map(equipmentOf).filter(Boolean)).size === 1;
  return tags.map((tag) => {
    const curve = curves.get(tag.uid);
    const contact = isContact(tag);
    if (!contact) number += 1;
    const pen = made[tag.uid];
    const kept = pen === undefined && tag.recorded.length > 0;
    const until = Number(curve?.details.known_until_us ?? 0);
    const known = pen === undefined ? Math.max(until, knownUntilUs, ahead.get(tag.uid) ?? 0) : until;
    const tail = tails.get(tailKey(tag.uid, curve?.details.archive ?? 0));
    const memory = pen === undefined ? memories.get(tag.uid) : undefined;
    const { legend, decimals = tag.decimals } = looks[tag.uid] ?? {};
    const columns = kept || memory === undefined ? joined(curve, tail) : remembered(curve, memory);
    return {
      tag: { ...tag, decimals, stepped: curve?.details.stepped ?? tag.stepped },
      name: legend ?? nameOf(tag, names, oneLine),
      number: contact ? 0 : number,
      contact,
      origin: pen === undefined ? 'tag' : pen.logger === '' ? 'formula' : 'records',
      thinned: pen !== undefined && (curve?.details.reduced ?? false),
      columns,
      lastUs: Math.max(tail?.t.at(-1) ?? 0, Number(curve?.details.last_us ?? 0)),
      heldUntilUs: known,
      blanks: touching([...blanksOf(curve, known), ...badSince(columns, until, known)]),
      samples: curve?.details.samples ?? 0,
      recordedSinceUs: Number(curve?.details.recorded_since_us ?? 0),
    };
  });
}

/** What is not recorded is drawn from what came in while the page was open. */
function remembered(curve: Curve | undefined, memory: LiveSamples): Columns {
  const { t, v, q } = memory;
  const columns = { t: Float64Array.from(t), v: Float64Array.from(v), q: Uint16Array.from(q) };
  return curve === undefined || curve.t.length === 0 ? columns : appended(curve, memory);
}

/** Live samples continue a curve only where it ended knowing all: behind its `known_until_us`. */
function joined(curve: Curve | undefined, tail: LiveSamples | undefined): Columns {
  if (curve === undefined) return NOTHING;
  return tail === undefined ? curve : appended(curve, tail);
}

function blanksOf(curve: Curve | undefined, knownUntilUs: number): Blank[] {
  if (curve === undefined) return [];
  // What was unknown when the curve was read shrinks as live samples tell.
  const readUntilUs = Number(curve.details.known_until_us);
  return curve.details.gaps
    .map((gap) => ({
      startUs: Number(gap.start_us),
      endUs: Number(gap.end_us),
      reason: gap.reason,
      detail: gap.detail,
    }))
    .map((gap) =>
      gap.startUs >= readUntilUs ? { ...gap, startUs: Math.max(gap.startUs, knownUntilUs) } : gap,
    )
    .filter((gap) => gap.endUs > gap.startUs);
}

/** Stretches of bad values that came in live: the curve was read before, and does not say so yet. */
function badSince(columns: Columns, readUntilUs: number, knownUntilUs: number): Blank[] {
  const found: Blank[] = [];
  const first = Math.max(indexAt(columns.t, readUntilUs), 0);
  for (let i = first; readUntilUs > 0 && i < columns.t.length; i++) {
    if (!isBad(columns.q[i] ?? 0)) continue;
    const startUs = Math.max(columns.t[i] ?? 0, readUntilUs);
    const endUs = Math.min(columns.t[i + 1] ?? knownUntilUs, knownUntilUs);
    if (endUs > startUs) found.push({ startUs, endUs, reason: 'bad_values', detail: '' });
  }
  return found;
}

/** Bad stretches that touch are one: what the curve tells of the first is of the whole. */
function touching(blanks: readonly Blank[]): Blank[] {
  const found: Blank[] = [];
  for (const blank of blanks) {
    const last = found.at(-1);
    const same = last?.reason === 'bad_values' && blank.reason === 'bad_values';
    if (same && last.endUs === blank.startUs) found[found.length - 1] = { ...last, endUs: blank.endUs };
    else found.push(blank);
  }
  return found;
}

/** A trace whose values are bad at present has an open blank of its own: the curve may not say so yet. */
export function blankAt(trace: Trace, atUs: number): Blank | null {
  const found = trace.blanks.find((blank) => atUs >= blank.startUs && atUs < blank.endUs);
  if (found !== undefined) return found;
  const i = indexAt(trace.columns.t, atUs);
  if (i < 0 || !isBad(trace.columns.q[i] ?? 0)) return null;
  return { startUs: trace.columns.t[i] ?? 0, endUs: atUs, reason: 'bad_values', detail: '' };
}

export interface Scale {
  low: number;
  high: number;
  log?: boolean;
  /** Its ends should come from tags, and these were not usable: since when it stands as it is, µs (0: it is the
      tag's own range). */
  staleUs?: number;
}

export function toPen(trace: Trace, scale: Scale, colour: string, dimmed: boolean, look: PenLook = {}): Pen {
  return {
    width: look.width ?? 1.6,
    draw: look.draw ?? 'line',
    guide: look.guide ?? false,
    lines: look.lines ?? [],
    id: trace.tag.uid,
    number: trace.number,
    label: '',
    colour,
    stepped: look.stepped ?? (trace.tag.stepped || trace.tag.value_type !== 'float'),
    alpha: look.alpha ?? 1,
    dash: look.dash ?? false,
    axis: look.axis ?? 'left',
    states: trace.tag.states,
    columns: trace.columns,
    heldUntilUs: trace.heldUntilUs,
    low: scale.low,
    high: scale.high,
    log: scale.log ?? false,
    dimmed,
    gaps: trace.blanks,
  };
}

/** Other tags as guide lines on the scale of a pen, each with its name. */
export function toGuides(pen: Pen, look: PenLook = {}, others: ReadonlyMap<string, Trace>): Pen[] {
  return (look.guides ?? []).flatMap((uid) => {
    const trace = others.get(uid);
    if (trace === undefined) return [];
    const { low, high, log, colour, dimmed } = pen;
    const line = toPen(trace, { low, high }, colour, dimmed, { guide: true });
    return [{ ...line, id: `${pen.id} ${uid}`, number: 0, label: trace.name, log, gaps: [] }];
  });
}

export function toContact(trace: Trace, isOver = false): ContactRow {
  const { columns, heldUntilUs, blanks: gaps } = trace;
  return { id: trace.tag.uid, isOver, label: trace.name, columns, heldUntilUs, gaps };
}

/** What a pen without a name of its own is called. */
function nameOf(tag: Tag, names: Names, oneLine: boolean): string {
  const wanted = names !== 'short' ? tag[names] : oneLine ? shortName(tag) : '';
  return wanted === '' ? tag.name : wanted;
}

/** The name without the line it belongs to, which all pens of a trend often share. */
export function shortName(tag: Tag): string {
  const line = equipmentOf(tag);
  return tag.name.startsWith(`${line} `) ? tag.name.slice(line.length + 1) : tag.name;
}

/** The nearest recorded value at or before a moment, as drawn. */
export function drawnAt(trace: Trace, atUs: number): Scalar {
  const i = indexAt(trace.columns.t, atUs);
  if (i < 0 || isBad(trace.columns.q[i] ?? 0) || atUs > trace.heldUntilUs) return null;
  const v = trace.columns.v[i] ?? NaN;
  if (Number.isNaN(v)) return null;
  return trace.contact ? v !== 0 : v;
}

/** Present value for a card; its age matters when nothing new comes in. */
export function presentValue(value: LiveValue | undefined): { v: Scalar; q: number; tUs: number } | null {
  return value === undefined ? null : { v: isBad(value.q) ? null : value.v, q: value.q, tUs: value.tUs };
}

/** A pen of an earlier window, moved to this one: drawn lighter, without number and gaps. */
export function toGhost(pen: Pen, curve: Curve, byUs: number): Pen {
  const t = curve.t.map((at) => at + byUs);
  const known = Number(curve.details.known_until_us) + byUs;
  return {
    ...pen,
    id: `${pen.id} earlier`,
    number: 0,
    columns: { t, v: curve.v, q: curve.q },
    heldUntilUs: known,
    dimmed: true,
    draw: pen.draw === 'area' ? 'line' : pen.draw,
    gaps: [],
    lines: [],
  };
}
