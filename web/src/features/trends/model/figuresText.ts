/** The table of figures as text. */
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { quoted } from '../../../platform/download';
import type { Span } from '../../../domain/time';
import type { FigurePen } from '../drawer/PenCards';
import type { Figure, FigureColumn } from '../../../entities/figureTexts';

/** The figures of a pen over a stretch: the range of the table, or the same so much earlier. */
export interface FigureRow {
  card: FigurePen;
  /** '': the range itself. */
  note: string;
  range: Span;
  figures: readonly Figure[];
}

/** The table as text: columns apart by tabs, full digits, for a spreadsheet. */
export function tableText(
  rows: readonly Pick<FigureRow, 'card' | 'note' | 'figures'>[],
  columns: readonly FigureColumn[],
): string {
  const head = [wording.pen, common.unit, ...columns.map((column) => column.label)];
  const lines = rows.map(({ card, note, figures }) => [
    quoted(`${card.trace.tag.name} ${note}`.trim()),
    quoted(card.trace.tag.unit),
    ...columns.map((column) => {
      const value = figures.find((one) => one.stat === column.stat)?.values?.[0]?.value;
      return value == null ? '' : String(value);
    }),
  ]);
  return [head, ...lines].map((line) => line.join('\t')).join('\r\n');
}
