/** The columns of a table: which are shown, in which order, under which names. */
import { ArrowDownward, ArrowUpward } from '@mui/icons-material';
import { Box, Button, Checkbox, IconButton, Input, Popover } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';
import { fill } from '../../domain/fill';
import { changed, moved, withDigits, type Layout } from './layout';

interface ColumnsPanelProps {
  anchor: HTMLElement;
  layout: Layout;
  /** The columns' own names, by id. */
  names: ReadonlyMap<string, string>;
  /** Those whose decimals can be chosen. */
  numeric: ReadonlySet<string>;
  onLayout: (layout: Layout) => void;
  onClose: () => void;
}

export function ColumnsPanel(props: ColumnsPanelProps): ReactElement {
  const { anchor, layout, names, numeric, onLayout, onClose } = props;
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': common.columns } }}
    >
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 1.5, display: 'grid', gap: 0.5 }}>
        {layout.map((choice, i) => (
          <ColumnLine
            key={choice.id}
            name={names.get(choice.id) ?? choice.id}
            given={choice.name}
            isShown={choice.isShown}
            digits={choice.digits ?? null}
            onDigits={
              numeric.has(choice.id) ? (typed) => onLayout(withDigits(layout, choice.id, typed)) : null
            }
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
            {wording.resetColumns}
          </Button>
        </li>
      </Box>
    </Popover>
  );
}

interface ColumnLineProps {
  name: string;
  given: string;
  isShown: boolean;
  digits: number | null;
  /** null: it has no numbers. */
  onDigits: ((typed: string) => void) | null;
  isFirst: boolean;
  isLast: boolean;
  onChange: (change: { isShown?: boolean; name?: string }) => void;
  onMove: (by: 1 | -1) => void;
}

function ColumnLine(props: ColumnLineProps): ReactElement {
  const { name, given, isShown, digits, onDigits, isFirst, isLast, onChange, onMove } = props;
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
      <Checkbox
        size="small"
        checked={isShown}
        onChange={(_, on) => onChange({ isShown: on })}
        slotProps={{ input: { 'aria-label': fill(wording.showName, { name }) } }}
        sx={{ p: 0.5 }}
      />
      <Input
        value={given}
        placeholder={name}
        onChange={(event) => onChange({ name: event.target.value })}
        slotProps={{ input: { 'aria-label': fill(wording.nameOfTheColumnName, { name }) } }}
        sx={{ width: 200 }}
      />
      {onDigits !== null && (
        <Input
          value={digits ?? ''}
          placeholder="0.0"
          onChange={(event) => onDigits(event.target.value)}
          slotProps={{
            input: {
              inputMode: 'numeric',
              'aria-label': fill(wording.decimalsOfTheColumnName, { name }),
              title: fill(wording.decimalsOfTheColumnName, { name }),
            },
          }}
          sx={{ width: 36 }}
        />
      )}
      <IconButton
        size="small"
        aria-label={fill(wording.nameToTheLeft, { name })}
        disabled={isFirst}
        onClick={() => onMove(-1)}
      >
        <ArrowUpward fontSize="small" />
      </IconButton>
      <IconButton
        size="small"
        aria-label={fill(wording.nameToTheRight, { name })}
        disabled={isLast}
        onClick={() => onMove(1)}
      >
        <ArrowDownward fontSize="small" />
      </IconButton>
    </Box>
  );
}
