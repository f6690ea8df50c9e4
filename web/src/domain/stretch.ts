/** A stretch of time as people write it, in the plant's zone. */
import { parseDuration, parseIso, type Span } from './time';
import { momentOfParts, partsOf, type Parts } from './zone';

/** The stretch that a text means: an ISO 8601 interval (two moments, or one and a duration), two moments with "to" between them, or one moment,
 * around which the window keeps its length. Null where it means nothing. What the second moment leaves out it
 * takes from the first one; the day and year that a first one leaves out are those of the window's end. */
export function parseStretch(text: string, zone: string, span: Span): Span | null {
  const [first = '', second, ...more] = text.trim().split(/\s+(?:to|until|–|-)\s+|\//);
  if (first === '' || more.length > 0) return null;
  const before = second === undefined || first[0] !== 'P' ? null : parseDuration(first);
  if (before !== null) {
    const endUs = momentOf(second ?? '', zone, span.endUs);
    return endUs === null ? null : { startUs: endUs - before, endUs };
  }
  const startUs = momentOf(first, zone, span.endUs);
  if (startUs === null) return null;
  if (second === undefined) {
    const half = (span.endUs - span.startUs) / 2;
    return { startUs: startUs - half, endUs: startUs + half };
  }
  const length = second.startsWith('P') ? parseDuration(second) : null;
  if (length !== null) return { startUs, endUs: startUs + length };
  const endUs = momentOf(second, zone, startUs);
  if (endUs === null) return null;
  // 22:00 to 06:00 ends on the next day, at 06:00 also when the clocks are set in between.
  const behind = endUs <= startUs && CLOCK.test(second) ? momentOf(second, zone, startUs, 1) : endUs;
  return behind !== null && behind > startUs ? { startUs, endUs: behind } : null;
}

const CLOCK = /^(\d{1,2}):(\d{2})(?::(\d{2}))?$/;
const ISO_DAY = /^(\d{4})-(\d{2})-(\d{2})$/;
const DAY_FIRST = /^(\d{1,2})\.(\d{1,2})\.(\d{4})?$/;

/** A moment in the zone; what it leaves out is that of another one, so many days later. */
function momentOf(text: string, zone: string, likeUs: number, later = 0): number | null {
  const iso = parseIso(text);
  if (iso !== null) return iso;
  const words = text.replace('T', ' ').split(/\s+/);
  const like = partsOf(likeUs, zone);
  let parts: Parts = { ...like, day: like.day + later, hour: 0, minute: 0, second: 0 };
  for (const word of words) {
    const next = withWord(parts, word);
    if (next === null) return null;
    parts = next;
  }
  return words.length > 2 ? null : momentOfParts(parts, zone);
}

function withWord(parts: Parts, word: string): Parts | null {
  const clock = CLOCK.exec(word);
  if (clock !== null) {
    const [, hour = '', minute = '', second = '0'] = clock;
    if (Number(hour) > 23 || Number(minute) > 59 || Number(second) > 59) return null;
    return { ...parts, hour: Number(hour), minute: Number(minute), second: Number(second) };
  }
  const iso = ISO_DAY.exec(word);
  if (iso !== null) return { ...parts, year: Number(iso[1]), month: Number(iso[2]), day: Number(iso[3]) };
  const day = DAY_FIRST.exec(word);
  if (day === null) return null;
  const year = day[3] === undefined ? parts.year : Number(day[3]);
  return { ...parts, year, month: Number(day[2]), day: Number(day[1]) };
}
