/** The columns of a logger's records by what they are called in tables, and the file of what is shown. */
import { lookIn, type RecordColumn, type RecordsLook } from '../../entities/records';
import type { Span } from '../../domain/time';
import { stretchIn } from '../../domain/windows';
import { layoutFor, readLayout } from '../../ui/table/layout';

/** The file of what is shown: the records that match, in their order; the columns that are shown, in theirs, under
 * the names that they have here. */
export function exportPath(
  uid: string,
  form: string,
  { span, look }: { span: Span | null; look: RecordsLook },
  columns: readonly RecordColumn[],
): string {
  const wish = { form, ...stretchIn(span), ...lookIn(look) };
  const params = new URLSearchParams(Object.entries(wish).map(([name, value]) => [name, String(value)]));
  const ids = [...Object.keys(HEADS), ...columns.map(idOf)];
  for (const { id, isShown, name } of layoutFor(ids, readLayout(keptAs(uid)))) {
    const column = HEADS[id] ?? columns.find((one) => idOf(one) === id)?.number;
    if (!isShown || column === undefined) continue;
    params.append('column', String(column));
    params.append('name', name);
  }
  return `/api/records/${uid}/export?${params.toString()}`;
}

/** What every record has, and what the server calls it. */
export const HEADS: Readonly<Record<string, string>> = { 'No.': 'number', Time: 'time', Trigger: 'reason' };

/** Under which name the browser keeps the columns. */
export function keptAs(logger: string): string {
  return `records ${logger}`;
}

/** A tag whose type was changed has two columns. */
export function idOf({ tag, present, number }: RecordColumn): string {
  return present ? tag : `${tag} ${number}`;
}
