/** All that a trend shows and does, joined from its store, history and live values. */
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useRef, useState, type RefObject } from 'react';
import type { Span } from '../../../domain/time';
import type { Tag } from '../../../platform/client';
import type { WindowChoice } from '../../../domain/windows';
import { plantQuery } from '../../../entities/plant';
import { sheetsQuery } from '../../../entities/sheets';
import { defaultTagsQuery } from '../../../entities/tags';
import { useSize } from '../../../platform/useSize';
import { useThemeChoice } from '../../../ui/themeContext';
import type { Tokens } from '../../../ui/tokens';
import type { PenCard } from '../drawer/PenCards';
import { useDrawn, type Drawn } from '../data/useDrawn';
import type { LiveSnapshot } from '../data/useLive';
import { usePlacedWindow, type PlacedWindow } from '../data/usePlacedWindow';
import type { Styled } from '../data/usePens';
import { useFollowed, type Followed } from '../data/useTraces';
import type { DrawerPanel } from '../model/drawerProps';
import type { Trace } from '../model/model';
import { titleOf } from '../model/pageTexts';
import type { Allowed, TrendState } from '../model/state';
import { useActive } from '../store/active';
import { useTrendStore, useTrendValue } from '../store/context';
import type { TrendStore } from '../store/trendStore';
import { useAddedTag, type ShellRequest } from './useAddedTag';
import { useFullScreen } from './useFullScreen';
import { useTrendKeys } from './useTrendKeys';
import { useTrendOn, type TrendOn } from './useTrendOn';

interface Sheet {
  state: TrendState;
  store: TrendStore;
  zone: string;
  tokens: Tokens;
  followed: Followed;
  placed: PlacedWindow;
  drawn: Drawn;
  /** What stands over it: the saved sheet's name, or what its tags have in common. */
  title: string;
  /** What follows the plot a moment later. */
  deferred: DeferredSheet;
  size: { width: number; height: number };
  setPlotHost: (element: HTMLElement | null) => void;
  panel: DrawerPanel;
  setPanel: (panel: DrawerPanel) => void;
  isAlone: boolean;
  figuresOpen: boolean;
  cards: RefObject<readonly PenCard[]>;
  on: TrendOn;
  onTouched: () => void;
  error: Error | null;
  /** The tags that it begins with are on their way. */
  isChoosing: boolean;
}

export function useSheet(permissions: readonly Allowed[] | null, request: ShellRequest): Sheet {
  const store = useTrendStore();
  const { actions } = store;
  const { isActive, touched } = useActive(store);
  const { tokens, toggle } = useThemeChoice();
  const { state, defaults, uids: named } = useChosen(permissions);
  const zone = useQuery(plantQuery).data?.zone ?? 'UTC';
  const followed = useFollowed(state, named);
  const { live, uids } = followed;
  useAddedTag(request, state, actions, uids);

  const [plotHost, setPlotHost] = useState<HTMLElement | null>(null);
  const size = useSize(plotHost);
  const placed = usePlacedWindow(state, live, size.width);
  const { span } = placed;
  const [panel, setPanel] = useState<DrawerPanel>('pens');
  const [figuresOpen, setFiguresOpen] = useState(false);
  const fullScreen = useFullScreen();
  const drawn = useDrawn(state, followed, placed, size.width, tokens);
  const { styled, pens } = drawn.drawn;
  const title = useTitle(state.sheet, drawn.known);
  const deferred = useDeferredSheet(styled, placed, followed, state.window);
  const cards = useRef<readonly PenCard[]>([]);
  const on = useTrendOn({
    state,
    store,
    span,
    panel,
    setPanel,
    fullScreen,
    figuresOpen,
    setFiguresOpen,
    known: drawn.known,
    title,
    tails: live.tails,
    uids,
    gone: followed.gone,
    zone,
    tokens,
    plotHost,
    cards,
  });
  useTrendKeys({
    span,
    store,
    isActive,
    allow: state.allow,
    on,
    penIds: pens.map((pen) => pen.id),
    onTheme: toggle,
  });
  return {
    state,
    store,
    zone,
    tokens,
    followed,
    placed,
    drawn,
    title,
    deferred,
    size,
    setPlotHost,
    panel,
    setPanel,
    isAlone: fullScreen.isAlone,
    figuresOpen,
    cards,
    on,
    onTouched: touched,
    error: followed.error ?? defaults.error ?? placed.error,
    isChoosing: defaults.isPending,
  };
}

export interface DeferredSheet {
  styled: readonly Styled[];
  span: Span;
  live: LiveSnapshot;
  tags: readonly Tag[];
  nowUs: number;
  window: WindowChoice;
}

/** The plot is drawn first, what follows it a moment later. */
function useDeferredSheet(
  styled: readonly Styled[],
  { span, nowUs }: PlacedWindow,
  { live, tags }: Followed,
  window: WindowChoice,
): DeferredSheet {
  return useDeferredValue(
    useMemo(() => ({ styled, span, live, tags, nowUs, window }), [styled, span, live, tags, nowUs, window]),
  );
}

/** The name of the sheet that is open; of a trend that is none, the equipment that its tags have in common. */
function useTitle(sheet: string | null, known: readonly Trace[]): string {
  const sheets = useQuery({ ...sheetsQuery, enabled: sheet !== null }).data;
  return sheets?.find((one) => one.uid === sheet)?.name ?? titleOf(known);
}

const NONE: string[] = [];

/** What the trend shows, and its tags: those that were chosen, or those it begins with. */
function useChosen(permissions: readonly Allowed[] | null): {
  state: TrendState;
  defaults: { error: Error | null; isPending: boolean };
  uids: readonly string[];
} {
  const kept = useTrendValue((values) => values.state);
  const state = useMemo(() => ({ ...kept, allow: permissions }), [kept, permissions]);
  const unchosen = state.tags === null;
  const { data, error, isPending } = useQuery({ ...defaultTagsQuery, enabled: unchosen });
  const uids = useMemo(() => state.tags ?? data ?? NONE, [state.tags, data]);
  return { state, defaults: { error: unchosen ? error : null, isPending: unchosen && isPending }, uids };
}
