/** The list of tags: thousands in one table, chosen, opened, dragged onto a logger. */
import { Box } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { LongTable, type Column } from '../../../ui';
import { lazyPart } from '../../../ui/lazyPart';
import { placeText } from '../common/protocols';
import { useSettled } from '../../../platform/useSettled';
import { usePresent } from '../../../entities/present/usePresent';
import { PresentContext } from './live/presentContext';
import type { Source } from '../../../entities/sources';
import type { TagRow } from '../../../entities/tags';

interface TagTableProps {
  tags: readonly TagRow[];
  total: number;
  sources: readonly Source[];
  chosen: ReadonlySet<string>;
  open: string | null;
  /** A panel stands beside it, which says where the tag is. */
  isNarrow: boolean;
  onToggle: (uid: string) => void;
  onToggleAll: () => void;
  onOpen: (uid: string) => void;
  onEnd: () => void;
  /** A row is dragged, or was let go of where nothing takes it. */
  onDrag: (uid: string | null) => void;
}

export function TagTable(props: TagTableProps): ReactElement {
  const { isNarrow, tags, total, sources, chosen, open, onToggle, onToggleAll, onOpen, onEnd, onDrag } =
    props;
  const columns = useMemo(() => columnsFor(sources, isNarrow), [sources, isNarrow]);
  const [drawn, setDrawn] = useState('');
  const settled = useSettled(drawn, SETTLED_MS);
  const looked = useMemo(() => settled.split(' ').filter(Boolean).slice(0, MOST_FOLLOWED), [settled]);
  const present = usePresent(looked);
  return (
    <PresentContext value={present}>
      <LongTable
        onDrawn={setDrawn}
        label="Tags"
        columns={columns}
        rows={tags}
        keyOf={(tag) => tag.uid}
        empty="No tag is found."
        keptAs="tags"
        leastWidth={isNarrow ? 700 : 1000}
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
    </PresentContext>
  );
}

const LiveCell = lazyPart('What the tags are now', async () => (await import('./live/LiveCells')).LiveCell);

/** Who scrolls on does not want the values of what goes by. */
const SETTLED_MS = 200;
/** As many as one connection follows are more than anybody sees. */
const MOST_FOLLOWED = 150;

function columnsFor(sources: readonly Source[], isNarrow: boolean): Column<TagRow>[] {
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
    { name: 'Value', of: (tag) => <LiveCell tag={tag} of="value" />, right: true, width: 104 },
    { name: 'Quality', of: (tag) => <LiveCell tag={tag} of="quality" />, width: 76 },
    { name: 'Age', of: (tag) => <LiveCell tag={tag} of="age" />, right: true, width: 64 },
    { name: 'Last 10 min', of: (tag) => <LiveCell tag={tag} of="course" />, width: 120 },
    ...(isNarrow ? [] : [text('Equipment', (tag) => tag.equipment, '12%'), text('Address', place, '15%')]),
    {
      name: 'Recorded',
      of: (tag) => {
        const recorded = recordedText(tag);
        return <Line text={recorded === '' ? 'not recorded' : recorded} isQuiet={recorded === ''} />;
      },
      value: recordedText,
      width: isNarrow ? '30%' : '18%',
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
