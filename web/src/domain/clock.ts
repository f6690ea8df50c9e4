/** Minutes of a day as people write them. */

/** 06:00 */
export function clockOf(minute: number): string {
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(Math.floor(minute / 60))}:${two(minute % 60)}`;
}

/** The minute of 6:00 or 06:00 or 6.00; null where it is none. */
export function minuteOf(text: string): number | null {
  const match = /^\s*(\d{1,2})[:.](\d{2})\s*$/.exec(text);
  if (match === null) return null;
  const [hours, minutes] = [Number(match[1]), Number(match[2])];
  return hours < 24 && minutes < 60 ? hours * 60 + minutes : null;
}

/** How far another clock is ahead of ours, from what it said in an answer that was asked for and came at these
 * moments: it was read somewhere in between. 0 where that leaves room for no difference: an answer that was
 * slow tells nothing. All in µs. */
export function aheadOf(theirsUs: number, askedUs: number, answeredUs: number): number {
  const [least, most] = [theirsUs - answeredUs, theirsUs - askedUs];
  if (least > 0) return least;
  return most < 0 ? most : 0;
}
