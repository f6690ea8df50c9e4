/** Tags: thousands in one list, found as one types, changed one or many at a time. */
import { Add, FileDownloadOutlined, FileUploadOutlined } from '@mui/icons-material';
import { Box, Button } from '@mui/material';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { useAddress } from '../../../platform/useAddress';
import { Told, useLeave, useOpen, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { Page } from '../common/Page';
import { TagFilters } from './TagFilters';
import { TagTable } from './TagTable';
import {
  findUids,
  parseFilter,
  tagRowQuery,
  tagRowsQuery,
  withFilter,
  type TagFilter,
  type TagRow,
} from '../../../entities/tags';
import { sourcesQuery } from '../../../entities/sources';
import { served } from '../../../platform/configuration';

const TagPanel = lazyPart(wording.thePanelOfTheTag, async () => (await import('./TagPanel')).TagPanel);
const TagAddPanel = lazyPart(
  wording.thePanelOfANewTag,
  async () => (await import('./TagAddPanel')).TagAddPanel,
);
const TagBulkPanel = lazyPart(
  wording.thePanelOfTheChosenTags,
  async () => (await import('./TagBulkPanel')).TagBulkPanel,
);
const EquipmentTree = lazyPart(
  wording.theEquipment,
  async () => (await import('./EquipmentTree')).EquipmentTree,
);
const TagDrop = lazyPart(wording.theListOfLoggers, async () => (await import('./TagDrop')).TagDrop);
const PRELOADED = [TagPanel, TagDrop, TagAddPanel, TagBulkPanel];

export function TagsPage(): ReactElement {
  const address = useAddress();
  const [params, write] = address;
  const filter = useMemo(() => parseFilter(params), [params]);
  const { data: sources = [] } = useQuery(sourcesQuery);
  const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery(
    tagRowsQuery(filter),
  );
  usePreloaded(data !== undefined, PRELOADED);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { open, like, put: setOpen } = useOpen(address);
  const [dragged, setDragged] = useState<readonly string[] | null>(null);
  const tags = useMemo(() => data?.pages.flatMap((page) => page.tags) ?? [], [data]);
  const total = data?.pages[0]?.total ?? 0;
  const { shown, problem } = useShown(open, data === undefined ? null : tags);

  const leave = useLeave();
  const toggle = (uid: string): void => leave(() => choose(uid));
  const choose = (uid: string): void => {
    const next = new Set(chosen);
    if (!next.delete(uid)) next.add(uid);
    setChosen(next);
    setOpen(null);
    setDragged(null);
  };
  const chooseAll = async (): Promise<void> => {
    if (chosen.size > 0) {
      setChosen(new Set());
      return;
    }
    const uids = await findUids(filter);
    setChosen(new Set(uids));
    setOpen(null);
  };

  const put = (next: TagFilter): void => write(withFilter(params, next));
  let panel: ReactElement | null = null;
  if (dragged !== null) panel = <TagDrop uids={dragged} onClose={() => setDragged(null)} />;
  else if (open === 'new')
    panel = <TagAddPanel key={like} like={like} sources={sources} onClose={() => setOpen(null)} />;
  else if (chosen.size > 0) panel = <TagBulkPanel uids={[...chosen]} onClose={() => setChosen(new Set())} />;
  else if (shown !== undefined)
    panel = (
      <TagPanel key={shown.uid} tag={shown} sources={sources} onClose={() => leave(() => setOpen(null))} />
    );

  return (
    <Page
      title={common.tags}
      note={
        chosen.size > 0
          ? fill(wording.sizeOfTotalChosen, { size: chosen.size, total })
          : `${total} ${isFiltered(filter) ? wording.found : wording.inAll}`
      }
      actions={
        <Actions
          hasSources={sources.length > 0}
          onAdd={() =>
            leave(() => {
              setDragged(null);
              setOpen('new');
            })
          }
        />
      }
      panel={panel}
    >
      <TagFilters filter={filter} sources={sources} hasTree={panel === null} onChange={put} />
      {(error ?? problem) !== null && <Told kind="error">{errorText(error ?? problem)}</Told>}
      {sources.length === 0 && <Told>{wording.thereIsNoSourceYetTags}</Told>}
      <Box sx={{ display: 'flex', gap: 2 }}>
        {panel === null && data !== undefined && (
          <Plant chosen={filter.equipment} onChoose={(equipment) => put({ ...filter, equipment })} />
        )}
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <TagTable
            tags={tags}
            total={total}
            sources={sources}
            chosen={chosen}
            open={open}
            isNarrow={panel !== null}
            onToggle={toggle}
            onToggleAll={() => void chooseAll()}
            onOpen={(uid) =>
              leave(() => {
                setChosen(new Set());
                setDragged(null);
                setOpen(uid);
              })
            }
            onDrag={(uid) => {
              // After the drop the panel stays, to say what became of it.
              if (uid === null) setDragged(null);
              else setDragged(chosen.has(uid) ? [...chosen] : [uid]);
            }}
            onEnd={() => {
              if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
            }}
          />
        </Box>
      </Box>
    </Page>
  );
}

function Actions({ hasSources, onAdd }: { hasSources: boolean; onAdd: () => void }): ReactElement {
  return (
    <>
      <Offered>
        <Button size="small" startIcon={<FileUploadOutlined />} component={Link} to="/setup/tags/import">
          {wording.importLabel}
        </Button>
      </Offered>
      {['csv', 'xlsx'].map((form) => (
        <Button
          key={form}
          size="small"
          startIcon={<FileDownloadOutlined />}
          href={served(`/api/setup/tags/export?form=${form}`)}
        >
          {form.toUpperCase()}
        </Button>
      ))}
      <Offered>
        <Button size="small" variant="outlined" startIcon={<Add />} disabled={!hasSources} onClick={onAdd}>
          {common.addTags}
        </Button>
      </Offered>
    </>
  );
}

/** Beside the list where there is room; else the equipment is chosen above it. */
function Plant(props: { chosen: string; onChoose: (path: string) => void }): ReactElement {
  return (
    <Box
      sx={{
        display: { xs: 'none', lg: 'block' },
        width: 190,
        flexShrink: 0,
        height: 'calc(100dvh - 190px)',
        overflow: 'auto',
      }}
    >
      <EquipmentTree {...props} />
    </Box>
  );
}

/** The tag that is open: of the list, or, where a link leads to one further down, by itself. */
function useShown(
  open: string | null,
  tags: readonly TagRow[] | null,
): { shown: TagRow | undefined; problem: Error | null } {
  const listed = tags?.find((tag) => tag.uid === open);
  const isElsewhere = open !== null && open !== 'new' && tags !== null && listed === undefined;
  const { data, error } = useQuery(tagRowQuery(isElsewhere ? open : null));
  return { shown: listed ?? (isElsewhere ? data : undefined), problem: isElsewhere ? error : null };
}

function isFiltered(filter: TagFilter): boolean {
  return Object.values(filter).some((value) => value !== '');
}
