/** The list of tags: thousands in one table, chosen, opened, dragged onto a logger. */
import { useEffect, useMemo, useState, type ComponentType, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { LongTable, type Column } from '../../../ui';
import { lazyPart } from '../../../ui/lazyPart';
import { placeText } from '../common/protocols';
import { usePresent } from '../../../entities/present/usePresent';
import type { LiveCellProps } from './live/LiveCells';
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
  const Live = useLiveCell();
  const columns = useMemo(() => columnsFor(sources, isNarrow, Live), [sources, isNarrow, Live]);
  const [settled, setDrawn] = useSettledText();
  const looked = useMemo(() => settled.split(' ').filter(Boolean).slice(0, MOST_FOLLOWED), [settled]);
  const present = usePresent(looked);
  return (
    <PresentContext value={present}>
      <LongTable
        onDrawn={setDrawn}
        label={common.tags}
        columns={columns}
        rows={tags}
        keyOf={(tag) => tag.uid}
        empty={common.noTagIsFound}
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

let loadedCell: ComponentType<LiveCellProps> | null = null;
const LiveCell = lazyPart(wording.whatTheTagsAreNow, async () => {
  loadedCell = (await import('./live/LiveCells')).LiveCell;
  return loadedCell;
});

/** What draws the live cells: by way of its loading, or at once when it is there. In each of thousands of cells the way
 * costs more than what it leads to. */
function useLiveCell(): ComponentType<LiveCellProps> {
  const [, setIsLoaded] = useState(false);
  useEffect(() => {
    // What cannot be loaded is said where it would stand.
    LiveCell.load().then(
      () => setIsLoaded(true),
      () => undefined,
    );
  }, []);
  return loadedCell ?? LiveCell;
}

/** Who scrolls on does not want the values of what goes by. */
const SETTLED_MS = 200;

/** The text that has stayed the same for a while. What goes by meanwhile draws nothing anew. */
function useSettledText(): [string, (text: string) => void] {
  const [settled, setSettled] = useState('');
  const [put] = useState(() => {
    let timer = 0;
    return (text: string): void => {
      window.clearTimeout(timer);
      timer = window.setTimeout(setSettled, SETTLED_MS, text);
    };
  });
  return [settled, put];
}

/** As many as one connection follows are more than anybody sees. */
const MOST_FOLLOWED = 150;

function columnsFor(
  sources: readonly Source[],
  isNarrow: boolean,
  Live: ComponentType<LiveCellProps>,
): Column<TagRow>[] {
  const names = new Map(sources.map((one) => [one.uid, one.name]));
  const place = (tag: TagRow): string => `${placeText(tag.address)} · ${names.get(tag.source) ?? ''}`;
  const text = (name: string, of: (tag: TagRow) => string, width: string): Column<TagRow> => ({
    name,
    width,
    value: of,
    of: (tag) => <Line text={of(tag)} />,
  });
  return [
    {
      name: common.name,
      of: (tag) => <span title={tag.description}>{tag.name}</span>,
      value: (tag) => tag.name,
    },
    { name: common.value, of: (tag) => <Live tag={tag} of="value" />, right: true, width: 104 },
    { name: common.quality, of: (tag) => <Live tag={tag} of="quality" />, width: 76 },
    { name: wording.age, of: (tag) => <Live tag={tag} of="age" />, right: true, width: 64 },
    { name: wording.last10Min, of: (tag) => <Live tag={tag} of="course" />, width: 120 },
    ...(isNarrow
      ? []
      : [text(common.equipment, (tag) => tag.equipment, '10%'), text(wording.address, place, '11%')]),
    {
      name: wording.recorded,
      of: (tag) => {
        const recorded = recordedText(tag);
        return <Line text={recorded === '' ? common.notRecorded : recorded} isQuiet={recorded === ''} />;
      },
      value: recordedText,
      width: isNarrow ? '22%' : '13%',
    },
  ];
}

function recordedText(tag: TagRow): string {
  return tag.recorded.map((one) => `${one.name}: ${one.text}`).join('; ');
}

/** One line, in full where the pointer rests on it. */
function Line({ text, isQuiet = false }: { text: string; isQuiet?: boolean }): ReactElement {
  return (
    <span title={text} className={isQuiet ? 'row-quiet' : undefined}>
      {text}
    </span>
  );
}
