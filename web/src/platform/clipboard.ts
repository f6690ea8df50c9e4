/** Copies a text. Browsers give pages that came without https no clipboard: there a selection is copied. */
export async function copyText(text: string): Promise<boolean> {
  try {
    // Not there on pages without https, whatever the types say.
    const clipboard = navigator.clipboard as Clipboard | undefined;
    if (clipboard !== undefined) {
      await clipboard.writeText(text);
      return true;
    }
  } catch {
    // The browser refuses it: the older way may still work.
  }
  return copySelection(text);
}

function copySelection(text: string): boolean {
  const field = document.createElement('textarea');
  field.value = text;
  field.setAttribute('readonly', '');
  field.style.position = 'fixed';
  field.style.opacity = '0';
  // Inside a dialog that keeps the focus, or else it could not be selected.
  const place = document.activeElement?.closest('[role=dialog]') ?? document.body;
  const before = document.activeElement;
  place.append(field);
  field.focus();
  field.select();
  // The only way there is without https; browsers keep it for that.
  // eslint-disable-next-line @typescript-eslint/no-deprecated
  const copied = document.execCommand('copy');
  field.remove();
  if (before instanceof HTMLElement) before.focus();
  return copied;
}
