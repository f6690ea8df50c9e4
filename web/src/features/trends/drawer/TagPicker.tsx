import { Add, Check, Close } from '@mui/icons-material';
import { Box, Button, ButtonBase, IconButton, InputBase, Typography } from '@mui/material';
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  useDeferredValue,
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type ReactElement,
} from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import type { Tag } from '../../../platform/client';
import { TagLines } from '../../../ui';
import { TAG_DRAG } from '../model/layout';
import { onlyTag, tagSearchQuery } from '../../../entities/tags';

export interface TagPickerProps {
  chosen: readonly string[];
  most: number;
  onToggle: (uid: string) => void;
  /** Makes a pen that is no tag. */
  onMake: (() => void) | null;
  onClose: () => void;
}

const ROW = 44;
/** Finds tags while one types; a click adds or removes a pen, or it is dragged onto a strip. Rows are virtual, pages come as needed. */
export function TagPicker({ chosen, most, onToggle, onMake, onClose }: TagPickerProps): ReactElement {
  const [text, setText] = useState('');
  const search = useDeferredValue(text.trim());
  const { data, status, error, hasNextPage, fetchNextPage, isFetchingNextPage, isPlaceholderData } =
    useInfiniteQuery(tagSearchQuery(search));
  const queries = useQueryClient();
  // The list may still be that of what was typed before.
  const isOld = status === 'pending' || isPlaceholderData || search !== text.trim();
  const tags = useMemo(() => data?.pages.flatMap((page) => page.tags) ?? [], [data]);
  const total = data?.pages[0]?.total ?? 0;
  const scroller = useRef<HTMLDivElement>(null);
  // The virtualiser hands out fresh functions at each render by design.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: tags.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  // Who moved to a tag means that one, also when the list that it stood in is followed by a newer one.
  const [activeUid, setActiveUid] = useState<string | null>(null);
  const active = activeUid === null ? -1 : tags.findIndex((tag) => tag.uid === activeUid);
  const list = useId();
  // Where the focus was when the list was asked for.
  const [backTo] = useState(() => document.activeElement);
  const close = (): void => {
    onClose();
    if (backTo instanceof HTMLElement && backTo.isConnected) backTo.focus();
  };
  const go = (to: number): void => {
    const next = Math.min(Math.max(to, 0), tags.length - 1);
    setActiveUid(tags[next]?.uid ?? null);
    rows.scrollToIndex(next);
  };
  const onKey = (event: KeyboardEvent): void => {
    const only = isOld || tags.length > 1 ? undefined : tags[0];
    const chosenTag = tags[active] ?? only;
    if (event.key === 'Escape') close();
    else if (event.key === 'ArrowDown') go(active + 1);
    else if (event.key === 'ArrowUp') go(active === -1 ? tags.length - 1 : active - 1);
    else if (event.key === 'Enter' && chosenTag !== undefined) onToggle(chosenTag.uid);
    else if (event.key === 'Enter' && isOld) {
      void onlyTag(queries, text.trim()).then((tag) => tag !== null && onToggle(tag.uid));
    } else return;
    event.preventDefault();
  };
  const items = rows.getVirtualItems();
  const lastShown = items.at(-1)?.index ?? 0;

  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && lastShown >= tags.length - 20) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, lastShown, tags.length, fetchNextPage]);

  return (
    <Box
      sx={{ display: 'flex', flexDirection: 'column', height: '100%', minHeight: 260 }}
      role="search"
      aria-label={wording.addPens}
    >
      <Box sx={{ display: 'flex', p: 1.5, pb: 0.5, gap: 1 }}>
        <InputBase
          autoFocus
          fullWidth
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setActiveUid(null);
          }}
          onKeyDown={onKey}
          placeholder={common.nameDescriptionUnitEquipment}
          inputProps={{
            'aria-label': wording.findATag,
            maxLength: 200,
            role: 'combobox',
            'aria-expanded': true,
            'aria-controls': list,
            'aria-activedescendant': active === -1 ? undefined : `${list}-${active}`,
          }}
          sx={{ typography: 'body1', borderBottom: 1, borderColor: 'text.secondary' }}
        />
        <IconButton size="small" aria-label={wording.closeTheListOfTags} onClick={close}>
          <Close fontSize="small" />
        </IconButton>
      </Box>
      <Typography variant="caption" sx={{ px: 1.5, pb: 0.5, color: 'text.secondary' }} aria-live="polite">
        {status === 'error'
          ? errorText(error)
          : fill(wording.totalTagsCountOfAtMost, { total, count: chosen.length, most })}
      </Typography>
      <Box ref={scroller} id={list} sx={{ flex: 1, overflowY: 'auto', minHeight: 0 }} data-testid="tag-list">
        <Box sx={{ position: 'relative', height: rows.getTotalSize() }}>
          {items.map((item) => {
            const tag = tags[item.index];
            if (tag === undefined) return null;
            const isChosen = chosen.includes(tag.uid);
            return (
              <Box
                key={tag.uid}
                sx={{ position: 'absolute', top: 0, left: 0, right: 0 }}
                style={{ transform: `translateY(${item.start}px)` }}
              >
                <TagRow
                  id={`${list}-${item.index}`}
                  active={item.index === active}
                  tag={tag}
                  chosen={isChosen}
                  full={!isChosen && chosen.length >= most}
                  onToggle={onToggle}
                />
              </Box>
            );
          })}
        </Box>
      </Box>
      {onMake !== null && (
        <Box sx={{ px: 1, py: 0.5, borderTop: 1, borderColor: 'divider' }}>
          <Button size="small" onClick={onMake}>
            {wording.fromAFormulaOrRecords}
          </Button>
        </Box>
      )}
    </Box>
  );
}

interface TagRowProps {
  id: string;
  /** Enter takes it. */
  active: boolean;
  tag: Tag;
  chosen: boolean;
  full: boolean;
  onToggle: (uid: string) => void;
}

function TagRow({ id, active, tag, chosen, full, onToggle }: TagRowProps): ReactElement {
  return (
    <ButtonBase
      id={id}
      disabled={full}
      aria-pressed={chosen}
      draggable={!full}
      onDragStart={(event) => event.dataTransfer.setData(TAG_DRAG, tag.uid)}
      onClick={() => onToggle(tag.uid)}
      sx={{
        width: '100%',
        height: ROW,
        px: 1.5,
        gap: 1,
        justifyContent: 'flex-start',
        ...(active ? { bgcolor: 'action.selected' } : {}),
        '&:hover, &:focus-visible': { bgcolor: 'action.hover' },
      }}
    >
      {chosen ? (
        <Check fontSize="small" sx={{ color: 'primary.main' }} />
      ) : (
        <Add fontSize="small" sx={{ color: 'text.secondary' }} />
      )}
      <TagLines tag={tag} />
    </ButtonBase>
  );
}
