/** Numbers as people type them. */

const NUMBER = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i;

/** A number with a point or a comma; null for anything else, and for what is too large to be one. */
export function parseNumber(text: string): number | null {
  const typed = text.trim();
  if (!NUMBER.test(typed)) return null;
  const number = Number(typed.replace(',', '.'));
  return Number.isFinite(number) ? number : null;
}
