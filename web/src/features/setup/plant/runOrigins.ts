/** What makes the recorder begin a run, in words. */

export const ORIGINS = [
  { value: 'change', label: 'a tag has another value, such as a lot number' },
  { value: 'tag', label: 'a tag is on' },
  { value: 'logger', label: 'a logger is wanted' },
] as const;

/** The words for one of them. */
export function originLabel(origin: string): string {
  return ORIGINS.find((one) => one.value === origin)?.label ?? origin;
}
