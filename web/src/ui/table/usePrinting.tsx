/** Printing a table: not only the rows that are drawn. */
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/ui.json';
import { errorText } from '../../platform/errors';
import { lazyPart } from '../lazyPart';
import { say } from '../toasts';
import type { Printed } from './PrintedTable';
import type { Paper, TableProps } from './tableProps';
import type { TableRows } from './useTableRows';

const PrintedTable = lazyPart(
  wording.thePrintedTable,
  async () => (await import('./PrintedTable')).PrintedTable,
);
/** Some hundred pages. */
const MOST_PRINTED = 5_000;

interface Printing {
  isBusy: boolean;
  onPrint: () => void;
  /** What is printed, unseen. */
  sheet: ReactElement | null;
}

export function usePrinting<T extends object>(props: TableProps<T>, table: TableRows<T>): Printing {
  const { label, keyOf, foot = [], printed } = props;
  const { sorted, shown, isWhole } = table;
  const [isBusy, setIsBusy] = useState(false);
  const [paper, setPaper] = useState<Printed | null>(null);
  const read = async (): Promise<Paper<T>> =>
    (await printed?.rows?.(MOST_PRINTED)) ?? {
      rows: sorted.slice(0, MOST_PRINTED),
      isAll: isWhole && sorted.length <= MOST_PRINTED,
    };
  const put = ({ rows, isAll }: Paper<T>): void => {
    // What changes all the time has no value that could be kept.
    const columns = shown.filter(({ value }) => value !== undefined);
    setPaper({
      ...{ label, heading: printed?.heading ?? [], isAll, foot },
      columns: columns.map(({ id, name, note = '', right = false }) => ({
        id: id ?? name,
        name,
        note,
        right,
      })),
      rows: rows.map((row) => ({ key: keyOf(row), cells: columns.map((column) => column.of(row)) })),
    });
  };
  const onPrint = (): void => {
    setIsBusy(true);
    read()
      .then(put)
      .catch((error: unknown) => say(errorText(error)))
      .finally(() => setIsBusy(false));
  };
  const [onDone] = useState(() => () => setPaper(null));
  return { isBusy, onPrint, sheet: paper === null ? null : <PrintedTable printed={paper} onDone={onDone} /> };
}
