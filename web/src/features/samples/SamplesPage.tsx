/** Samples of tags as a table: newest first, following live. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactElement } from 'react';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { HOUR, type Span } from '../../domain/time';
import { goesOn } from '../../domain/windows';
import { plantQuery } from '../../entities/plant';
import { sampleFiguresQuery, type SampleRow, type Wish } from '../../entities/samples/rows';
import { useSampleRows } from '../../entities/samples/useSampleRows';
import { defaultTagsQuery, tagNamesQuery } from '../../entities/tags';
import { useWindowInAddress } from '../../entities/useWindowInAddress';
import type { Tag } from '../../platform/client';
import { ApiError, errorText } from '../../platform/errors';
import { useAddress } from '../../platform/useAddress';
import { useSettled } from '../../platform/useSettled';
import { Told, UnsavedGuard, useLeave } from '../../ui';
import { lazyPart, usePreloaded } from '../../ui/lazyPart';
import { Head, type Opened } from './Head';
import type { Line } from './lines';
import { SamplesTable } from './SamplesTable';
import { readState, USUAL_WINDOW, withState, type SamplesState } from './state';

const ChangesPanel = lazyPart(
  wording.theChangesOfContacts,
  async () => (await import('./ChangesPanel')).ChangesPanel,
);
const FilesPanel = lazyPart(wording.theFiles, async () => (await import('./FilesPanel')).FilesPanel);
const RowsPanel = lazyPart(wording.theChoiceOfTags, async () => (await import('./RowsPanel')).RowsPanel);
const SamplePanel = lazyPart(wording.theSamplePanel, async () => (await import('./SamplePanel')).SamplePanel);
const SavedSheets = lazyPart(
  wording.theSavedSheets,
  async () => (await import('../../entities/saved/SavedSheets')).SavedSheets,
);
const PRELOADED = [RowsPanel, SamplePanel, ChangesPanel, FilesPanel, SavedSheets];

/** Who has not chosen any tags sees so many. */
const FIRST_TAGS = 3;
const TYPING_MS = 300;
const NONE: never[] = [];

export function SamplesPage(): ReactElement {
  return (
    <UnsavedGuard>
      <Samples />
    </UnsavedGuard>
  );
}

function Samples(): ReactElement {
  const address = useAddress();
  const [params, write] = address;
  const { window, span, listed, error: placing } = useWindowInAddress(address, USUAL_WINDOW);
  const { tags, state, lost } = useChosen(params);
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const [opened, setOpened] = useState<Opened | null>(null);
  const [selected, setSelected] = useState<{ key: string; row: SampleRow } | null>(null);
  const { layout, stepUs, between, order, quality } = state;
  const value = useSettled(state.value, TYPING_MS);
  const uids = tags.map((tag) => tag.uid);
  const wish: Wish = { tags: uids, layout, stepUs, between, order, value, quality };
  const isLive = window !== null && goesOn(window) && !(window.kind === 'last' && window.agoUs > 0);
  const found = useSampleRows(wish, uids.length === 0 ? null : span, listed.key, isLive);
  const everyMs = isLive && span !== null && refreshed(span);
  const figures = useQuery({
    ...sampleFiguresQuery(wish, span ?? NOWHERE, listed.key, everyMs),
    ...(span === null ? { enabled: false } : {}),
  });
  usePreloaded(found.isKnown, PRELOADED);
  const change = (more: Partial<SamplesState>): void => write(withState(params, { ...state, ...more }));
  const leave = useLeave();
  const select = (next: { key: string; row: SampleRow } | null): void => leave(() => setSelected(next));
  const open = (panel: Opened | null): void =>
    leave(() => {
      setSelected(null);
      setOpened(panel);
    });
  const refused = refusedValue(found.error);
  const failure = lost ?? placing;
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', height: { md: '100%' } }}>
      <Head
        {...{ state, opened, refused }}
        canSave={span !== null && refused === '' && tags.length > 0}
        count={tags.length}
        onChange={change}
        onOpen={(panel) => open(opened === panel && selected === null ? null : panel)}
      />
      {failure !== null && <Told kind="error">{errorText(failure)}</Told>}
      <Box sx={{ display: 'flex', flex: 1, minHeight: 0, flexDirection: { xs: 'column', md: 'row' } }}>
        <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', px: 2, pb: 1 }}>
          {span !== null && tags.length > 0 && (
            <SamplesTable
              {...{ state, wish, tags, span, zone }}
              onFiles={() => open('files')}
              found={refused === '' ? found : { ...found, error: null }}
              isRefused={refused !== ''}
              figures={figures.data ?? NONE}
              withoutFigures={
                figures.error !== null && refused === ''
                  ? fill(wording.noFiguresError, { error: errorText(figures.error) })
                  : ''
              }
              selected={selected?.key ?? null}
              onSelect={(line: Line) => line.row !== null && select({ key: line.key, row: line.row })}
            />
          )}
        </Box>
        {selected !== null ? (
          <SamplePanel
            row={presentRow(found.rows, selected.row)}
            {...{ tags, zone }}
            onClose={() => select(null)}
            onDeleted={() => setSelected(null)}
          />
        ) : (
          span !== null && (
            <OpenedPanel
              {...{ opened, state, wish, tags, span, zone, everyMs }}
              windowKey={listed.key}
              view={withState(params, { ...state, tags: uids }).toString()}
              onView={(view) => write(new URLSearchParams(view), true)}
              onChange={change}
              onClose={() => setOpened(null)}
            />
          )
        )}
      </Box>
    </Box>
  );
}

/** How often figures of a window that ends now are asked for: those of a long one take longer than they change. */
const refreshed = ({ startUs, endUs }: Span): number => (endUs - startUs <= 2 * HOUR ? 3_000 : 30_000);

const NOWHERE = { startUs: 0, endUs: 1 };

/** The tags that the address names, or the first ones there are. */
function useChosen(params: URLSearchParams): {
  tags: readonly Tag[];
  state: SamplesState;
  lost: Error | null;
} {
  const state = useMemo(() => readState(params), [params]);
  const isNone = state.tags.length === 0;
  const usual = useQuery({ ...defaultTagsQuery, enabled: isNone });
  const uids = isNone ? (usual.data ?? NONE).slice(0, FIRST_TAGS) : state.tags;
  const named = useQuery(tagNamesQuery(uids));
  const key = uids.join(',');
  const tags = useMemo(() => {
    const byUid = new Map(named.data?.map((tag) => [tag.uid, tag]));
    return key.split(',').flatMap((uid) => byUid.get(uid) ?? []);
  }, [named.data, key]);
  const missing = named.isSuccess && !named.isPlaceholderData && tags.length < uids.length;
  const lost = missing ? new ApiError(404, '', wording.someOfTheTagsInThe) : null;
  return { tags, state, lost: usual.error ?? named.error ?? lost };
}

/** The same row as it is now: a correction changes it. */
function presentRow(rows: readonly SampleRow[], row: SampleRow): SampleRow {
  return rows.find(({ t_us, tag }) => t_us === row.t_us && tag === row.tag) ?? row;
}

/** What is wrong with what was typed to see some values only. */
function refusedValue(error: Error | null): string {
  if (!(error instanceof ApiError)) return '';
  const field = error.fields.find((one) => one.field === 'value');
  return field === undefined ? '' : `${field.problem}. ${field.remedy}`;
}

interface OpenedPanelProps {
  opened: Opened | null;
  state: SamplesState;
  wish: Wish;
  tags: readonly Tag[];
  span: Span;
  windowKey: string;
  everyMs: number | false;
  zone: string;
  view: string;
  onView: (view: string) => void;
  onChange: (more: Partial<SamplesState>) => void;
  onClose: () => void;
}

function OpenedPanel(props: OpenedPanelProps): ReactElement | null {
  const { opened, state, wish, tags, span, windowKey, everyMs, zone, view, onView, onChange, onClose } =
    props;
  switch (opened) {
    case 'rows':
      return <RowsPanel {...{ state, tags, onChange, onClose }} />;
    case 'changes':
      return <ChangesPanel {...{ tags, span, windowKey, everyMs, zone, onClose }} />;
    case 'files':
      return <FilesPanel {...{ wish, span, onClose }} />;
    case 'sheets':
      return <SavedSheets page="samples" {...{ view, onClose }} onOpen={onView} />;
    default:
      return null;
  }
}
