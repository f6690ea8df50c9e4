/** The table of figures as text. */
import { quoted } from '../../../platform/download';
import type { FigurePen } from '../drawer/PenCards';
import type { Figure, FigureColumn } from '../../../entities/figureTexts';

/** The table as text: columns apart by tabs, full digits, for a spreadsheet. */
export function tableText(
  rows: readonly { card: FigurePen; figures: readonly Figure[] }[],
  columns: readonly FigureColumn[],
): string {
  const head = ['Pen', 'Unit', ...columns.map((column) => column.label)];
  const lines = rows.map(({ card, figures }) => [
    quoted(card.trace.tag.name),
    quoted(card.trace.tag.unit),
    ...columns.map((column) => {
      const value = figures.find((one) => one.stat === column.stat)?.values?.[0]?.value;
      return value == null ? '' : String(value);
    }),
  ]);
  return [head, ...lines].map((line) => line.join('\t')).join('\r\n');
}
