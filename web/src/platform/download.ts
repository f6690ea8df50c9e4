/** What a person saves from a page. */

export function saveBlob(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** What the server gives under an address, as a file under the name that it has there. */
export function savePath(path: string): void {
  const link = document.createElement('a');
  link.href = path;
  link.download = '';
  link.click();
}

/** A table as CSV; the mark at its start tells a spreadsheet that it is UTF-8. */
export function saveCsv(text: string, name: string): void {
  saveBlob(new Blob(['\uFEFF', text], { type: 'text/csv;charset=utf-8' }), name);
}

/** A field of a table in text, quoted where it has to be. */
export function quoted(text: string): string {
  return /[",\t\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}
