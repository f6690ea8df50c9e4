/** The list of tags: rows exist only where one looks, so ten thousand are as quick as ten. */
import { Box, ButtonBase, Checkbox, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactElement } from 'react';
import { placeText } from '../common/protocols';
import type { Source } from '../../../entities/sources';
import type { TagRow } from '../../../entities/tags';

const ROW = 32;
const COLUMNS =
  '36px minmax(180px, 2.2fr) 64px minmax(120px, 1.2fr) minmax(140px, 1.4fr) minmax(140px, 1.6fr)';

interface TagTableProps {
  tags: readonly TagRow[];
  total: number;
  sources: readonly Source[];
  chosen: ReadonlySet<string>;
  open: string | null;
  onToggle: (uid: string) => void;
  onToggleAll: () => void;
  onOpen: (uid: string) => void;
  onEnd: () => void;
  /** A row is dragged, or was let go of where nothing takes it. */
  onDrag: (uid: string | null) => void;
}

export function TagTable(props: TagTableProps): ReactElement {
  const { tags, total, sources, chosen, open, onToggle, onToggleAll, onOpen, onEnd, onDrag } = props;
  const scroller = useRef<HTMLDivElement>(null);
  // The virtualiser hands out fresh functions at each render by design.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: tags.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const items = rows.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (tags.length < total && last >= tags.length - 40) onEnd();
  }, [tags.length, total, last, onEnd]);
  const names = new Map(sources.map((one) => [one.uid, one.name]));
  return (
    <Box role="table" aria-label="Tags" aria-rowcount={total + 1} sx={{ minWidth: 760 }}>
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: COLUMNS,
          columnGap: 1,
          alignItems: 'center',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Box role="columnheader">
          <Checkbox
            size="small"
            checked={chosen.size > 0 && chosen.size >= total}
            indeterminate={chosen.size > 0 && chosen.size < total}
            onChange={onToggleAll}
            slotProps={{ input: { 'aria-label': 'Choose all that are found' } }}
            sx={{ p: 0.5 }}
          />
        </Box>
        {['Name', 'Unit', 'Equipment', 'Place', 'Recorded'].map((name) => (
          <Typography key={name} role="columnheader" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {name}
          </Typography>
        ))}
      </Box>
      <Box
        ref={scroller}
        sx={{ height: 'calc(100vh - 250px)', minHeight: 240, overflowY: 'auto' }}
        data-testid="tag-rows"
      >
        <Box sx={{ position: 'relative', height: rows.getTotalSize() }} role="rowgroup">
          {items.map((item) => {
            const tag = tags[item.index];
            if (tag === undefined) return null;
            return (
              <Row
                key={tag.uid}
                tag={tag}
                top={item.start}
                source={names.get(tag.source) ?? ''}
                chosen={chosen.has(tag.uid)}
                open={tag.uid === open}
                onToggle={onToggle}
                onOpen={onOpen}
                onDrag={onDrag}
              />
            );
          })}
        </Box>
      </Box>
    </Box>
  );
}

interface RowProps {
  tag: TagRow;
  top: number;
  source: string;
  chosen: boolean;
  open: boolean;
  onToggle: (uid: string) => void;
  onOpen: (uid: string) => void;
  onDrag: (uid: string | null) => void;
}

function Row({ tag, top, source, chosen, open, onToggle, onOpen, onDrag }: RowProps): ReactElement {
  const recorded = tag.recorded.map((one) => `${one.name}: ${one.text}`).join('; ');
  return (
    <Box
      role="row"
      draggable
      onDragStart={(event) => {
        event.dataTransfer.effectAllowed = 'link';
        event.dataTransfer.setData('text/plain', tag.name);
        onDrag(tag.uid);
      }}
      onDragEnd={(event) => {
        if (event.dataTransfer.dropEffect === 'none') onDrag(null);
      }}
      sx={{
        position: 'absolute',
        left: 0,
        right: 0,
        height: ROW,
        display: 'grid',
        gridTemplateColumns: COLUMNS,
        columnGap: 1,
        alignItems: 'center',
        bgcolor: chosen || open ? 'action.selected' : 'transparent',
        '&:hover': { bgcolor: 'action.hover' },
      }}
      style={{ transform: `translateY(${top}px)` }}
    >
      <Box role="cell">
        <Checkbox
          size="small"
          checked={chosen}
          onChange={() => onToggle(tag.uid)}
          slotProps={{ input: { 'aria-label': `Choose ${tag.name}` } }}
          sx={{ p: 0.5 }}
        />
      </Box>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <ButtonBase
          onClick={() => onOpen(tag.uid)}
          title={tag.description}
          sx={{ font: 'inherit', fontSize: 13, maxWidth: '100%', justifyContent: 'flex-start' }}
        >
          <Typography noWrap sx={{ fontSize: 13 }}>
            {tag.name}
          </Typography>
        </ButtonBase>
      </Box>
      <Cell>{tag.unit}</Cell>
      <Cell>{tag.equipment}</Cell>
      <Cell title={source}>{`${placeText(tag.address)} · ${source}`}</Cell>
      <Cell quiet={recorded === ''} title={recorded}>
        {recorded === '' ? 'not recorded' : recorded}
      </Cell>
    </Box>
  );
}

function Cell({
  children,
  quiet = false,
  title,
}: {
  children: string;
  quiet?: boolean;
  title?: string;
}): ReactElement {
  return (
    <Typography
      role="cell"
      noWrap
      title={title ?? children}
      sx={{ fontSize: 12.5, color: quiet ? 'text.secondary' : 'text.primary' }}
    >
      {children}
    </Typography>
  );
}
