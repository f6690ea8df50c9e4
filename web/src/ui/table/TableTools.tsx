/** What can be done with a table: choose, order and name its columns, copy it, save it. */
import { Box, Button } from '@mui/material';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';
import { saveCsv } from '../../platform/download';
import { CopyButton } from '../CopyButton';
import { lazyPart } from '../lazyPart';
import type { Layout } from './layout';

const ColumnsPanel = lazyPart(
  wording.theListOfColumns,
  async () => (await import('./ColumnsPanel')).ColumnsPanel,
);

/** Where it cannot be loaded the panel says so itself. */
const loadColumns = (): void => void ColumnsPanel.load().catch(() => undefined);

interface TableToolsProps {
  layout: Layout;
  /** The columns' own names, by id. */
  names: ReadonlyMap<string, string>;
  /** Those whose decimals can be chosen. */
  numeric: ReadonlySet<string>;
  onLayout: (layout: Layout) => void;
  /** The table as text; null: not all of it is there. */
  text: ((separator: ',' | '\t') => string) | null;
  hasFile: boolean;
  isPrinting: boolean;
  onPrint: () => void;
  /** Name of the file. */
  file: string;
}

export function TableTools(props: TableToolsProps): ReactElement {
  const { layout, names, numeric, onLayout, text, hasFile, file, isPrinting, onPrint } = props;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <Box sx={{ display: 'flex', justifyContent: 'flex-end', gap: 0.5 }}>
      <Button
        size="small"
        aria-haspopup="dialog"
        aria-expanded={anchor !== null}
        onPointerEnter={loadColumns}
        onFocus={loadColumns}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {common.columns}
      </Button>
      <Button size="small" disabled={isPrinting} onClick={onPrint}>
        {wording.printLabel}
      </Button>
      {text !== null && (
        <>
          <CopyButton word={common.copy} text={() => text('\t')} />
          {hasFile && (
            <Button size="small" onClick={() => saveCsv(text(','), `${file}.csv`)}>
              CSV
            </Button>
          )}
        </>
      )}
      {anchor !== null && (
        <ColumnsPanel
          anchor={anchor}
          layout={layout}
          names={names}
          numeric={numeric}
          onLayout={onLayout}
          onClose={() => setAnchor(null)}
        />
      )}
    </Box>
  );
}
