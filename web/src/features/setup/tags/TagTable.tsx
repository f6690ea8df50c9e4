/** The list of tags: thousands in one table, chosen, opened, dragged onto a logger. */
import { Box } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import { LongTable, type Column } from '../../../ui';
import { placeText } from '../common/protocols';
import type { Source } from '../../../entities/sources';
import type { TagRow } from '../../../entities/tags';

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
  const columns = useMemo(() => columnsFor(sources), [sources]);
  return (
    <LongTable
      label="Tags"
      columns={columns}
      rows={tags}
      keyOf={(tag) => tag.uid}
      empty="No tag is found."
      keptAs="tags"
      height="calc(100dvh - 214px)"
      selected={open}
      onSelect={(tag) => onOpen(tag.uid)}
      choosing={{
        chosen,
        onToggle,
        onToggleAll,
        nameOf: (tag) => tag.name,
      }}
      total={total}
      hasOwnFiles
      onEnd={onEnd}
      onDrag={(event, tag) => {
        event.dataTransfer.effectAllowed = 'link';
        event.dataTransfer.setData('text/plain', tag.name);
        onDrag(tag.uid);
      }}
      onDragEnd={(event) => {
        if (event.dataTransfer.dropEffect === 'none') onDrag(null);
      }}
    />
  );
}

function columnsFor(sources: readonly Source[]): Column<TagRow>[] {
  const names = new Map(sources.map((one) => [one.uid, one.name]));
  const place = (tag: TagRow): string => `${placeText(tag.address)} · ${names.get(tag.source) ?? ''}`;
  const text = (name: string, of: (tag: TagRow) => string, width: string): Column<TagRow> => ({
    name,
    width,
    value: of,
    of: (tag) => <Line text={of(tag)} />,
  });
  return [
    { name: 'Name', of: (tag) => <span title={tag.description}>{tag.name}</span>, value: (tag) => tag.name },
    text('Unit', (tag) => tag.unit, '8%'),
    text('Equipment', (tag) => tag.equipment, '18%'),
    text('Address', place, '20%'),
    {
      name: 'Recorded',
      of: (tag) => {
        const recorded = recordedText(tag);
        return <Line text={recorded === '' ? 'not recorded' : recorded} isQuiet={recorded === ''} />;
      },
      value: recordedText,
      width: '20%',
    },
  ];
}

function recordedText(tag: TagRow): string {
  return tag.recorded.map((one) => `${one.name}: ${one.text}`).join('; ');
}

/** One line, in full where the pointer rests on it. */
function Line({ text, isQuiet = false }: { text: string; isQuiet?: boolean }): ReactElement {
  return (
    <Box
      component="span"
      title={text}
      sx={{
        display: 'block',
        whiteSpace: 'nowrap',
        overflow: 'hidden',
        textOverflow: 'ellipsis',
        color: isQuiet ? 'text.secondary' : undefined,
      }}
    >
      {text}
    </Box>
  );
}
