/** What is typed in a field and cannot be used: a form that holds such a field is not saved. */

/** Marks the input of such a field. */
export const UNUSABLE = { 'data-unusable': '' };

/** Whether a form has such a field; the first one gets the focus. */
export function hasUnusable(form: Element): boolean {
  const first = form.querySelector<HTMLElement>('[data-unusable]');
  first?.focus();
  return first !== null;
}

/** The first field of a form of which the page says that something is wrong gets the focus. */
export function focusWrong(form: Element): void {
  form.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
}
