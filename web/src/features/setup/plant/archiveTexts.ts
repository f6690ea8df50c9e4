/** How amounts of samples and bytes are written. */

export const MB = 1_000_000;

/** A whole number with its thousands apart, or a dash for none. */
export function whole(value: number | null | undefined): string {
  return value == null ? '–' : Math.round(value).toLocaleString('en-GB');
}
