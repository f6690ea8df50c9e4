/** The scale of a pen: its own range, fitted, fixed, or with ends that come from tags; linear or logarithmic. */
import { extent } from '../../../chart/curve';
import { niceStep } from '../../../domain/format';
import type { Span } from '../../../domain/time';
import { scaleOwner, type Looks, type PenLook } from './looks';
import { drawnAt, type Scale, type Trace } from './model';

/** Without an end above 0 a logarithmic scale begins so many decades below its upper one. */
const DECADES = 3;

export function scaleOf(
  trace: Trace,
  span: Span,
  fit: boolean,
  look: PenLook = {},
  others: ReadonlyMap<string, Trace> = new Map(),
): Scale {
  const scale = linearScale(trace, span, fit, look, others);
  if (look.log !== true || scale.high <= 0) return scale;
  return { ...scale, log: true, low: scale.low > 0 ? scale.low : scale.high / 10 ** DECADES };
}

function linearScale(
  trace: Trace,
  span: Span,
  fit: boolean,
  look: PenLook,
  others: ReadonlyMap<string, Trace>,
): Scale {
  const own = { low: trace.tag.range_low, high: trace.tag.range_high };
  if (look.lowTag !== undefined || look.highTag !== undefined) {
    const low = endOf(look.lowTag, look.low ?? own.low, others);
    const high = endOf(look.highTag, look.high ?? own.high, others);
    return limitsFromTags(low, high, span.endUs) ?? { ...own, staleUs: 0 };
  }
  if (look.low !== undefined && look.high !== undefined) return { low: look.low, high: look.high };
  return fit ? fitted(trace, span, own) : own;
}

/** The scales of pens of which some share one, by uid. Fitted ones that are shared are fitted to all that share them; else it
 * is the scale of the pen that the others name. */
export function sharedScales(
  own: ReadonlyMap<string, Scale>,
  looks: Looks,
  fit: boolean,
): ReadonlyMap<string, Scale> {
  const owners = new Map([...own.keys()].map((uid) => [uid, scaleOwner(looks, uid, (one) => own.has(one))]));
  return new Map(
    [...own].map(([uid, scale]) => {
      const owner = owners.get(uid) ?? uid;
      const common = own.get(owner) ?? scale;
      const { low, lowTag, highTag } = looks[owner] ?? {};
      const isSet = low !== undefined || lowTag !== undefined || highTag !== undefined;
      if (!fit || isSet || common.log === true) return [uid, common];
      const all = [...own].filter(([one]) => owners.get(one) === owner).map(([, one]) => one);
      return [
        uid,
        { low: Math.min(...all.map((one) => one.low)), high: Math.max(...all.map((one) => one.high)) },
      ];
    }),
  );
}

type End = number | Trace | null;

function endOf(uid: string | undefined, constant: number, others: ReadonlyMap<string, Trace>): End {
  return uid === undefined ? constant : (others.get(uid) ?? null);
}

/** The limits at an instant; when they are bad, missing or low >= high there, the last ones that were valid. */
export function limitsFromTags(low: End, high: End, untilUs: number): Scale | null {
  for (const atUs of instants([low, high], untilUs)) {
    const [from, to] = [valueAt(low, atUs), valueAt(high, atUs)];
    if (from !== null && to !== null && from < to) {
      return atUs === untilUs ? { low: from, high: to } : { low: from, high: to, staleUs: atUs };
    }
  }
  return null;
}

/** The instant, and before it each change of an end, the newest first: these are seldom asked for. */
function* instants(ends: readonly End[], untilUs: number): Generator<number> {
  yield untilUs;
  const changes = ends.flatMap((end) => (end === null || typeof end === 'number' ? [] : [...end.columns.t]));
  const before = [...new Set(changes)].filter((t) => t < untilUs);
  yield* before.sort((a, b) => b - a);
}

function valueAt(end: End, atUs: number): number | null {
  if (end === null || typeof end === 'number') return end;
  const value = drawnAt(end, Math.min(atUs, end.heldUntilUs));
  return typeof value === 'number' ? value : null;
}

/** The visible values with some air, at round limits so that it stays deferred. */
function fitted(trace: Trace, span: Span, own: Scale): Scale {
  const seen = extent(trace.columns, span.startUs, span.endUs);
  if (seen === null) return own;
  const least = Math.max((own.high - own.low) * 0.01, 4 * 10 ** -trace.tag.decimals);
  const room = Math.max((seen.high - seen.low) * 0.12, (least - (seen.high - seen.low)) / 2, 0);
  const step = niceStep(Math.max(seen.high - seen.low + 2 * room, least), 10);
  return {
    low: Math.floor((seen.low - room) / step) * step,
    high: Math.ceil((seen.high + room) / step) * step,
  };
}

/** How a pen's values lie to its scale: inside, partly outside, or nothing of them is to be seen. */
export function liesIn(trace: Trace, scale: Scale, span: Span): 'inside' | 'partly' | 'outside' {
  const seen = extent(trace.columns, span.startUs, span.endUs);
  if (seen === null) return 'inside';
  if (seen.high < scale.low || seen.low > scale.high) return 'outside';
  return seen.low < scale.low || seen.high > scale.high ? 'partly' : 'inside';
}

type Ends = Pick<Scale, 'low' | 'high' | 'log'>;

/** A scale `factor` times as long around a place on it (0 at its lower end, 1 at its upper one). */
export function stretchedScale({ low, high, log = false }: Ends, factor: number, around: number): Ends {
  if (log) {
    const ends = stretchedScale({ low: Math.log10(low), high: Math.log10(high) }, factor, around);
    return { low: rounded(10 ** ends.low, 10 ** ends.low), high: rounded(10 ** ends.high, 10 ** ends.high) };
  }
  const length = high - low;
  const fixed = low + around * length;
  const ends = { low: fixed - around * length * factor, high: fixed + (1 - around) * length * factor };
  return { low: rounded(ends.low, ends.high - ends.low), high: rounded(ends.high, ends.high - ends.low) };
}

/** A scale moved by a share of its length. */
export function shiftedScale({ low, high, log = false }: Ends, share: number): Ends {
  if (log) {
    const factor = (high / low) ** share;
    return { low: rounded(low * factor, low), high: rounded(high * factor, high) };
  }
  const by = (high - low) * share;
  return { low: rounded(low + by, high - low), high: rounded(high + by, high - low) };
}

/** The ends of a part of a scale, to so many digits that one can read them. */
export function readableEnds({ low, high }: Ends): Pick<Ends, 'low' | 'high'> {
  return { low: rounded(low, high - low), high: rounded(high, high - low) };
}

/** To three digits of a length: ends that one can read. */
function rounded(value: number, length: number): number {
  const step = 10 ** (Math.floor(Math.log10(Math.abs(length))) - 3);
  return Number((Math.round(value / step) * step).toPrecision(12));
}
