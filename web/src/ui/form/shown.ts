/** Which fields a form shows at present: a problem with one of them is said there, any other one below the form. */
import { createContext, useContext } from 'react';

export const ShownFields = createContext<Set<string>>(new Set());

export function useShownFields(): Set<string> {
  return useContext(ShownFields);
}

/** Where a problem that the server has found is to be said; null: not at a field. `field` is a dotted path; `also`
 * gives the paths of what the server calls otherwise than the form. */
export function placeOf(
  field: string,
  shown: ReadonlySet<string>,
  also: Readonly<Record<string, string>>,
): string | null {
  const names = [...shown].sort((a, b) => b.length - a.length);
  const whole = names.find((name) => field === name || field.endsWith(`.${name}`));
  if (whole !== undefined) return whole;
  for (const part of field.split('.').reverse()) {
    const place = also[part] ?? names.find((name) => name === part || name.endsWith(`.${part}`));
    if (place !== undefined) return place;
  }
  return null;
}
