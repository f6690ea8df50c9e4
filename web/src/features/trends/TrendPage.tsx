import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState, type ReactElement } from 'react';
import { useOutletContext } from 'react-router';
import { errorText } from '../../api/errors';
import { healthQuery, plantQuery } from '../../api/queries';
import { GUTTER_LEFT, GUTTER_RIGHT } from '../../chart';
import { useSize } from '../../shared/lib/useSize';
import { useThemeChoice } from '../../shared/lib/themeContext';
import { SECOND } from '../../shared/lib/time';
import { KeysPanel } from './KeysPanel';
import { blankAt, toContact, toPen, traces, type Blank, type Trace } from './model';
import { PenCards } from './PenCards';
import { defaultTagsQuery, tagsQuery } from './queries';
import { held, lengthOf, MOST_TAGS, spanOf, zoomed } from './state';
import { TagPicker } from './TagPicker';
import { TrendRail } from './TrendRail';
import { TrendView, type TrendStatus } from './TrendView';
import { useCards } from './useCards';
import { useCurves } from './useCurves';
import { useLive } from './useLive';
import { useNow } from './useNow';
import { useTrendKeys } from './useTrendKeys';
import { useTrendState } from './useTrendState';

/** What the shell tells a page: an action asked for in the top bar. */
export interface ShellRequest {
  findTag: number;
}

type Panel = 'pens' | 'picker' | 'keys';
const NONE: string[] = [];

/** A trend: joins state, history and live values with the view. */
export function TrendPage(): ReactElement {
  const { tokens, toggle: toggleTheme } = useThemeChoice();
  const { findTag } = useOutletContext<ShellRequest>();
  const defaults = useQuery(defaultTagsQuery);
  const { state, actions } = useTrendState(defaults.data ?? NONE);
  const uids = useMemo(() => state.tags ?? defaults.data ?? NONE, [state.tags, defaults.data]);
  const tags = useQuery(tagsQuery(uids));
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';

  const [plotHost, setPlotHost] = useState<HTMLElement | null>(null);
  const size = useSize(plotHost);
  const plotWidth = Math.max(size.width - GUTTER_LEFT - GUTTER_RIGHT, 0);
  const clock = useServerClock();
  const { window: shown } = state;
  const everyMs = Math.min(Math.max(lengthOf(shown) / 1000 / Math.max(plotWidth, 200), 100), 1000);
  const nowUs = useNow(clock.offsetUs, everyMs, shown.mode === 'live');
  const span = useMemo(() => spanOf(shown, nowUs), [shown, nowUs]);

  const live = useLive(uids);
  const { curves, status, stale, error } = useCurves(uids, shown, span, plotWidth, live.resyncs);
  const known = useMemo(() => {
    const chosen = (tags.data ?? []).filter((tag) => uids.includes(tag.uid));
    return traces(chosen, curves, live.tails, live.knownUntilUs);
  }, [tags.data, uids, curves, live.tails, live.knownUntilUs]);

  const [panel, setPanel] = usePanel(findTag);
  const [cursorUs, setCursorUs] = useState<number | null>(null);
  const cards = useCards({ known, state, span, cursorUs, live, tokens });
  const shownCards = cards.filter((card) => !card.hidden);
  const pens = shownCards.flatMap(({ trace, scale, colour }) =>
    scale === null ? [] : [toPen(trace, scale, colour, ![null, trace.tag.uid].includes(state.selected))],
  );
  const visible = shownCards.map((card) => card.trace);

  const { setWindow } = actions;
  const onMode = useCallback(() => {
    const next = shown.mode === 'live' ? held(span.startUs, span.endUs) : null;
    setWindow(next ?? { mode: 'live', lengthUs: lengthOf(shown) });
  }, [setWindow, shown, span]);
  const onSelect = useCallback(
    (uid: string) => actions.change({ selected: state.selected === uid ? null : uid }),
    [actions, state.selected],
  );
  const onFit = (): void => actions.change({ fit: !state.fit });
  const onClose = (): void => setPanel('pens');
  const onPicker = (): void => setPanel('picker');
  const onKeys = (): void => setPanel(panel === 'keys' ? 'pens' : 'keys');
  useTrendKeys({
    ...{ span, cursorUs, actions, onMode, onFit, onSelect, onPicker, onKeys, onClose },
    penIds: pens.map((pen) => pen.id),
    onCursor: setCursorUs,
    onTheme: toggleTheme,
  });

  const failure = tags.error ?? defaults.error;
  const failed = failure !== null || status === 'error';
  return (
    <TrendView
      title={titleOf(known)}
      status={statusOf(uids.length, failed, defaults.isPending, status === 'pending')}
      error={failure === null ? error : errorText(failure)}
      notice={noticeOf(live.link === 'lost', live.databaseUp, clock.failed)}
      {...{ zone, span, tokens, pens, cursorUs, size, plotHost: setPlotHost, onFit, onKeys }}
      contacts={visible.filter((trace) => trace.contact).map(toContact)}
      selected={pens.find((pen) => pen.id === state.selected) ?? pens[0]}
      fit={state.fit}
      canUndo={actions.canUndo}
      cursorBlanks={cursorUs === null || stale ? [] : blanksAt(visible, cursorUs)}
      surface={{
        onCursor: setCursorUs,
        onZoom: (to) => setWindow(held(to.startUs, to.endUs)),
        onPan: (to) => actions.change({ window: held(to.startUs, to.endUs) }),
        onWheel: (factor, at) => actions.change({ window: zoomed(span, factor, at) }),
      }}
      drawer={
        panel === 'picker' ? (
          <TagPicker chosen={uids} most={MOST_TAGS} onToggle={actions.toggleTag} onClose={onClose} />
        ) : panel === 'keys' ? (
          <KeysPanel onClose={onClose} />
        ) : (
          <PenCards
            cards={cards}
            onSelect={onSelect}
            onHide={actions.toggleHidden}
            onRemove={actions.toggleTag}
          />
        )
      }
      rail={<TrendRail {...{ span, nowUs, zone, state, cards, actions, onMode }} />}
      onAdd={onPicker}
      onUndo={actions.undo}
    />
  );
}

/** Which panel the drawer shows; a new request from the top bar opens the list of tags. */
function usePanel(findTag: number): [Panel, (panel: Panel) => void] {
  const [panel, setPanel] = useState<Panel>('pens');
  const [seen, setSeen] = useState(findTag);
  if (seen !== findTag) {
    setSeen(findTag);
    setPanel('picker');
  }
  return [panel, setPanel];
}

/** How far the server's clock is ahead of the browser's; below a second it is the network's. */
function useServerClock(): { offsetUs: number; failed: boolean } {
  const { data, error, dataUpdatedAt } = useQuery(healthQuery);
  const ahead = data === undefined ? 0 : Number(data.now_us) - dataUpdatedAt * 1000;
  const offsetUs = Math.abs(ahead) < SECOND ? 0 : Math.round(ahead / SECOND) * SECOND;
  return { offsetUs, failed: error !== null };
}

function blanksAt(visible: readonly Trace[], atUs: number): { name: string; blank: Blank }[] {
  return visible.flatMap((trace) => {
    const blank = blankAt(trace, atUs);
    return blank === null ? [] : [{ name: trace.name, blank }];
  });
}

function statusOf(count: number, failed: boolean, choosing: boolean, reading: boolean): TrendStatus {
  if (failed) return 'error';
  if (count === 0) return choosing ? 'loading' : 'empty';
  return reading ? 'loading' : 'ready';
}

function noticeOf(linkLost: boolean, databaseUp: boolean, healthFailed: boolean): string {
  if (linkLost) return 'The connection to the server is lost. What is shown may be old; reconnecting …';
  if (!databaseUp) return 'The database does not answer. Recording goes on in memory; curves wait.';
  return healthFailed ? 'The server does not answer.' : '';
}

function titleOf(known: readonly Trace[]): string {
  const lines = [...new Set(known.map((trace) => trace.tag.equipment.split('/')[0] ?? ''))].filter(Boolean);
  return lines.length === 1 ? `${lines[0] ?? ''} trend` : 'Trend';
}
