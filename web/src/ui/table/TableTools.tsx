/** What can be done with a table: choose, order and name its columns, copy it, save it. */
import { ArrowDownward, ArrowUpward } from '@mui/icons-material';
import { Box, Button, Checkbox, IconButton, Popover, TextField } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { saveCsv } from '../../platform/download';
import { CopyButton } from '../CopyButton';
import { changed, moved, type Layout } from './layout';

interface TableToolsProps {
  layout: Layout;
  /** The columns' own names, by id. */
  names: ReadonlyMap<string, string>;
  onLayout: (layout: Layout) => void;
  /** The table as text; null: not all of it is there. */
  text: ((separator: ',' | '\t') => string) | null;
  hasFile: boolean;
  /** Name of the file. */
  file: string;
}

export function TableTools({ layout, names, onLayout, text, hasFile, file }: TableToolsProps): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <Box sx={{ display: 'flex', justifyContent: 'flex-end', gap: 0.5 }}>
      <Button
        size="small"
        aria-haspopup="dialog"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        Columns
      </Button>
      {text !== null && (
        <>
          <CopyButton word="Copy" text={() => text('\t')} />
          {hasFile && (
            <Button size="small" onClick={() => saveCsv(text(','), `${file}.csv`)}>
              CSV
            </Button>
          )}
        </>
      )}
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Columns' } }}
      >
        <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 1.5, display: 'grid', gap: 0.5 }}>
          {layout.map((choice, i) => (
            <ColumnLine
              key={choice.id}
              name={names.get(choice.id) ?? choice.id}
              given={choice.name}
              isShown={choice.isShown}
              isFirst={i === 0}
              isLast={i === layout.length - 1}
              onChange={(change) => onLayout(changed(layout, choice.id, change))}
              onMove={(by) => onLayout(moved(layout, choice.id, by))}
            />
          ))}
          <li>
            <Button
              size="small"
              onClick={() => onLayout([...names.keys()].map((id) => ({ id, isShown: true, name: '' })))}
            >
              Reset columns
            </Button>
          </li>
        </Box>
      </Popover>
    </Box>
  );
}

interface ColumnLineProps {
  name: string;
  given: string;
  isShown: boolean;
  isFirst: boolean;
  isLast: boolean;
  onChange: (change: { isShown?: boolean; name?: string }) => void;
  onMove: (by: 1 | -1) => void;
}

function ColumnLine(props: ColumnLineProps): ReactElement {
  const { name, given, isShown, isFirst, isLast, onChange, onMove } = props;
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
      <Checkbox
        size="small"
        checked={isShown}
        onChange={(_, on) => onChange({ isShown: on })}
        slotProps={{ input: { 'aria-label': `Show ${name}` } }}
        sx={{ p: 0.5 }}
      />
      <TextField
        variant="standard"
        size="small"
        value={given}
        placeholder={name}
        onChange={(event) => onChange({ name: event.target.value })}
        slotProps={{ htmlInput: { 'aria-label': `Name of the column ${name}` } }}
        sx={{ width: 200 }}
      />
      <IconButton
        size="small"
        aria-label={`${name} to the left`}
        disabled={isFirst}
        onClick={() => onMove(-1)}
      >
        <ArrowUpward fontSize="small" />
      </IconButton>
      <IconButton
        size="small"
        aria-label={`${name} to the right`}
        disabled={isLast}
        onClick={() => onMove(1)}
      >
        <ArrowDownward fontSize="small" />
      </IconButton>
    </Box>
  );
}
