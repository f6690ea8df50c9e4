/** A table on paper: all its rows, by day, its head on each page. */
import { ThemeProvider } from '@mui/system';
import { useEffect, useState, type CSSProperties, type ReactElement, type ReactNode } from 'react';
import { createPortal } from 'react-dom';
import * as wording from 'texts/ui.json';
import { fill } from '../../domain/fill';
import { print, printedPlace } from '../../platform/printing';
import { makeTheme } from '../theme';
import { TOKENS } from '../tokens';
import type { TableProps } from './tableProps';

export interface Printed {
  label: string;
  /** What stands above the rows, a line each. */
  heading: readonly string[];
  columns: readonly { id: string; name: string; note: string; right: boolean }[];
  rows: readonly { key: string; cells: readonly ReactNode[] }[];
  /** There are no more rows. */
  isAll: boolean;
  foot: NonNullable<TableProps<never>['foot']>;
}

interface PrintedTableProps {
  printed: Printed;
  onDone: () => void;
}

export function PrintedTable({ printed, onDone }: PrintedTableProps): ReactElement {
  const { label, heading, columns, rows, isAll, foot } = printed;
  const place = usePrinted(onDone);
  return createPortal(
    <ThemeProvider theme={makeTheme('day', TOKENS.day)}>
      <div style={SHEET}>
        <h1 style={TITLE}>{label}</h1>
        {heading.map((line) => (
          <p key={line} style={LINE}>
            {line}
          </p>
        ))}
        {!isAll && (
          <p style={LINE}>{fill(wording.theFirstCountRows, { count: rows.length.toLocaleString('en') })}</p>
        )}
        <table style={TABLE}>
          <thead>
            <tr>
              {columns.map(({ id, name, note, right }) => (
                <th key={id} scope="col" style={cellStyle(right)}>
                  {name}
                  {note !== '' && <div>{note}</div>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ key, cells }) => (
              <tr key={key}>
                {columns.map(({ id, right }, i) => (
                  <td key={id} style={cellStyle(right)}>
                    {cells[i]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
          <tbody style={FOOT}>
            {foot.map(({ name, cells }) => (
              <tr key={name}>
                {columns.map(({ id, right }, i) => (
                  <td key={id} style={cellStyle(right && i > 0)}>
                    {i === 0 ? name : cells.get(id)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </ThemeProvider>,
    place,
  );
}

/** Where it is drawn; it is printed as soon as it stands there. */
function usePrinted(onDone: () => void): HTMLElement {
  const [place] = useState(printedPlace);
  useEffect(() => {
    const timer = window.setTimeout(print, 0, place, onDone);
    return () => {
      window.clearTimeout(timer);
      place.remove();
    };
  }, [place, onDone]);
  return place;
}

function cellStyle(right: boolean): CSSProperties {
  return { ...CELL, textAlign: right ? 'right' : 'left' };
}

const SHEET = { font: '9pt system-ui, sans-serif', color: '#000', background: '#fff' } as const;
const TITLE = { font: '700 14pt system-ui, sans-serif', margin: '0 0 4pt' } as const;
const LINE = { margin: '0 0 4pt' } as const;
const TABLE = { borderCollapse: 'collapse', width: '100%' } as const;
const CELL = { borderBottom: '0.5pt solid #999', padding: '1.5pt 6pt', verticalAlign: 'top' } as const;
const FOOT = { fontWeight: 700 } as const;
