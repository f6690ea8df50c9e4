import { useQuery } from '@tanstack/react-query';
import {
  lazy,
  Suspense,
  useCallback,
  useDeferredValue,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ReactElement,
  type RefObject,
} from 'react';
import { useLocation, useOutletContext } from 'react-router';
import { errorText } from '../../../platform/errors';
import { GUTTER_LEFT } from '../../../chart';
import { aheadOf } from '../../../domain/clock';
import { useThemeChoice } from '../../../ui/themeContext';
import { SECOND, type Span } from '../../../domain/time';
import { useSize } from '../../../platform/useSize';
import { Head } from '../head/Head';
import { besideOf, blanksAt, gutterFor, legendOf, noticeOf, statusOf, titleOf } from '../model/pageTexts';
import { SheetStrips } from '../plot/SheetStrips';
import { lengthOf, rangeOf, spanOf, type TrendState } from '../model/state';
import type { DrawerPanel } from '../model/drawerProps';
import { TrendDrawer } from '../drawer/TrendDrawer';
import { TrendRail } from '../plot/TrendRail';
import { TrendView } from './TrendView';
import { useCards } from '../data/useCards';
import { useGhosts } from '../data/useGhosts';
import { useNow } from '../data/useNow';
import { usePens } from '../data/usePens';
import { useRefreshed } from '../data/useRefreshed';
import { useFollowed, useTraces } from '../data/useTraces';
import { useTrendKeys } from './useTrendKeys';
import { useTrendOn } from './useTrendOn';
import { useTrendState, type TrendActions } from './useTrendState';
import { healthQuery } from '../../../entities/health';
import { plantQuery } from '../../../entities/plant';
import { defaultTagsQuery } from '../../../entities/tags';
import { useAddedTag, type ShellRequest } from './useAddedTag';

const FiguresTable = lazy(async () => ({ default: (await import('../drawer/FiguresTable')).FiguresTable }));

const NONE: string[] = [];

/** A trend: joins state, history and live values with the view. */
export function TrendPage(): ReactElement {
  const { tokens, toggle: toggleTheme } = useThemeChoice();
  const request = useOutletContext<ShellRequest>();
  const { state, actions, defaults, uids: named } = useChosen();
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const followed = useFollowed(state, named);
  const { live, uids } = followed;
  useAddedTag(request, state, actions, uids);

  const [plotHost, setPlotHost] = useState<HTMLElement | null>(null);
  const size = useSize(plotHost);
  const clock = useServerClock();
  const { window: shown } = state;
  const isLive = shown.mode === 'live';
  const everyMs = Math.min(Math.max(lengthOf(shown) / 1000 / Math.max(size.width, 200), 100), 1000);
  const moving = isLive || state.strips.some((strip) => strip.window?.endUs === null);
  const nowUs = useRefreshed(useNow(clock.offsetUs, everyMs, moving), state.refresh, live);
  const span = useMemo(() => spanOf(shown, nowUs), [shown, nowUs]);

  const gutterRight = useMemo(() => gutterFor(state.looks, uids), [state.looks, uids]);
  const plotWidth = Math.max(size.width - GUTTER_LEFT - gutterRight, 0);
  const { known, others, curves } = useTraces(followed, shown, span, plotWidth);
  const [panel, setPanel] = useState<DrawerPanel>('pens');
  const [cursorUs, pointerUs, onCursor] = useCursor();
  const drawn = usePens({ known, others, state, span, tokens });
  const { pens, contacts, unseen } = drawn;
  const { selected, looks } = state;
  const cards = useCards({ styled: drawn.styled, selected, span, cursorUs, live, looks });
  const shownCards = cards.filter((card) => !card.hidden);
  const ghosts = useGhosts(pens, state.made, span, plotWidth, state.ghostUs);
  const all = useMemo(() => [...ghosts, ...drawn.guides, ...pens], [ghosts, drawn.guides, pens]);
  const [figuresOpen, setFiguresOpen] = useState(false);
  const steady = useSteady(span, isLive);
  // The plot is drawn first, what follows it a moment later.
  const calmCards = useDeferredValue(cards);
  const on = useTrendOn({
    ...{
      state,
      actions,
      span,
      panel,
      setPanel,
      figuresOpen,
      setFiguresOpen,
      known,
      tails: live.tails,
      uids,
      gone: followed.gone,
      zone,
      tokens,
    },
    ...{ plotHost, pointerUs, legend: shownCards.map(legendOf) },
  });
  useTrendKeys({
    ...{ span, cursorUs, actions, allow: state.allow, on, onCursor },
    penIds: pens.map((pen) => pen.id),
    onTheme: toggleTheme,
  });

  // The curves come first: what stands around them is built while they are on their way.
  const around = useAround(curves.status !== 'pending' || uids.length === 0);
  const failure = followed.error ?? defaults.error;
  const failed = failure !== null || curves.status === 'error';
  const title = titleOf(known);
  return (
    <TrendView
      head={
        <Room ready={around} height={HEAD_PX}>
          <Head
            {...{ title, figuresOpen, zone, plotWidth, on }}
            uids={followed.real}
            archives={followed.archives}
            {...{ scales: state.scales, ghostUs: state.ghostUs, refresh: state.refresh, allow: state.allow }}
            canUndo={actions.canUndo}
            beside={besideOf(state, others, zone)}
          />
        </Room>
      }
      status={statusOf(uids.length, failed, defaults.isPending, curves.status === 'pending')}
      error={failure === null ? curves.error : errorText(failure)}
      notice={noticeOf(live, clock.failed)}
      gone={followed.gone.length}
      onTakeOff={on.onTakeOff}
      {...{ zone, span, cursorUs, size, unseen, plotHost: setPlotHost, onFit: on.onFit }}
      counts={{ pens: pens.length, contacts: contacts.length }}
      strips={
        <SheetStrips
          {...{ state, followed, span, nowUs, size, zone, tokens, cursorUs, gutterRight, uids, on, onCursor }}
          {...{ pens: all, contacts }}
        />
      }
      figures={
        figuresOpen ? (
          <Suspense fallback={null}>
            <FiguresTable
              cards={shownCards.filter((card) => card.trace.origin === 'tag')}
              range={rangeOf(state, steady)}
              bounded={state.a !== null && state.b !== null}
              zone={zone}
              onClose={on.onFigures}
            />
          </Suspense>
        ) : null
      }
      cursorBlanks={blanksAt(shownCards, curves.stale ? null : cursorUs)}
      drawer={
        around && (
          <TrendDrawer
            {...{ panel, setPanel, uids, state, actions, span, cursorUs, zone, tokens }}
            cards={calmCards}
            onSelect={on.onSelect}
          />
        )
      }
      rail={
        state.allow !== null && !state.allow.includes('time') ? null : (
          <Room ready={around} height={RAIL_PX}>
            <TrendRail {...{ span, nowUs, zone, state, styled: drawn.styled, actions, onMode: on.onMode }} />
          </Room>
        )
      }
    />
  );
}

/** Whether to draw what stands around the curves: when they are there, or do not come at once. */
function useAround(ready: boolean): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = window.setTimeout(() => setLate(true), PATIENCE_MS);
    return () => window.clearTimeout(timer);
  }, []);
  return useDeferredValue(ready || late, false);
}

interface RoomProps {
  ready: boolean;
  height: number;
  children: ReactElement;
}

/** What stands somewhere in a moment: what is there already does not move then. */
function Room({ ready, height, children }: RoomProps): ReactElement {
  return ready ? children : <div style={{ height }} />;
}

const PATIENCE_MS = 500;
const HEAD_PX = 43;
const RAIL_PX = 67;

/** The state in the address, and the tags it shows; a link that names only a sheet opens it. */
function useChosen(): {
  state: TrendState;
  actions: TrendActions;
  defaults: { error: Error | null; isPending: boolean };
  uids: readonly string[];
} {
  const named = useLocation().search;
  const defaults = useQuery({ ...defaultTagsQuery, enabled: !/[?&]tags=/.test(named) });
  const { state, actions } = useTrendState(defaults.data ?? NONE);
  const uids = useMemo(() => state.tags ?? defaults.data ?? NONE, [state.tags, defaults.data]);
  const isPending = state.tags === null && defaults.isPending;
  return { state, actions, defaults: { error: defaults.error, isPending }, uids };
}

/** A live window in steps: figures of it are asked for now and then, not at every frame. */
function useSteady(span: Span, live: boolean): Span {
  const [steady, setSteady] = useState(span);
  const length = span.endUs - span.startUs;
  const moved = Math.abs(span.endUs - steady.endUs) >= (live ? Math.max(length / 50, 2 * SECOND) : 1);
  if (moved || length !== steady.endUs - steady.startUs) setSteady(span);
  return steady;
}

/** Where the cursor is, as drawn and as last heard: a key that follows the pointer at once finds the second. */
function useCursor(): [number | null, RefObject<number | null>, (atUs: number | null) => void] {
  const [drawn, setDrawn] = useState<number | null>(null);
  const heard = useRef<number | null>(null);
  const frame = useRef(0);
  const onCursor = useCallback((atUs: number | null) => {
    heard.current = atUs;
    // A pointer may tell of itself several times a frame: once is enough to draw.
    if (frame.current === 0) {
      frame.current = requestAnimationFrame(() => {
        frame.current = 0;
        setDrawn(heard.current);
      });
    }
  }, []);
  useEffect(() => () => cancelAnimationFrame(frame.current), []);
  return [drawn, heard, onCursor];
}

/** How far the server's clock is ahead of the browser's; what is below a second does not matter. */
function useServerClock(): { offsetUs: number; failed: boolean } {
  const { data, error } = useQuery(healthQuery);
  const ahead =
    data === undefined
      ? 0
      : aheadOf(data.clock.nowUs, data.clock.askedMs * 1000, data.clock.answeredMs * 1000);
  const offsetUs = Math.abs(ahead) < SECOND ? 0 : Math.round(ahead / SECOND) * SECOND;
  return { offsetUs, failed: error !== null };
}
