/** What is typed in a field and cannot be used: a form that holds such a field is not saved. */

/** Marks the input of such a field. */
export const UNUSABLE = { 'data-unusable': '' };

/** Whether a form has such a field; the first one gets the focus. */
export function hasUnusable(form: Element): boolean {
  const first = form.querySelector<HTMLElement>('[data-unusable]');
  first?.focus();
  return first !== null;
}
