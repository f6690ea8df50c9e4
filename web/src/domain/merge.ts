/** What was typed in a form, put onto a version that somebody else has saved meanwhile. */

/** A field that both have changed, each in another way. */
export interface Clash {
  field: string;
  mine: unknown;
  theirs: unknown;
}

export interface Merged<F> {
  form: F;
  clashes: Clash[];
}

export function same(a: unknown, b: unknown): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}

/** Fields that were not touched since `base` become theirs; what was typed stays. */
export function merge<F extends object>(base: F, mine: F, theirs: F): Merged<F> {
  const form = { ...theirs } as Record<string, unknown>;
  const clashes: Clash[] = [];
  for (const [field, value] of Object.entries(mine) as [keyof F & string, unknown][]) {
    if (same(value, base[field])) continue;
    form[field] = value;
    if (!same(theirs[field], base[field]) && !same(theirs[field], value)) {
      clashes.push({ field, mine: value, theirs: theirs[field] });
    }
  }
  return { form: form as F, clashes };
}
