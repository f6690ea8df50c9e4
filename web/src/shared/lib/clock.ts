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
