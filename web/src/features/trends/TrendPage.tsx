import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactElement, type RefObject } from 'react';
import { useOutletContext } from 'react-router';
import { errorText } from '../../api/errors';
import { healthQuery, plantQuery } from '../../api/queries';
import { GUTTER_LEFT, GUTTER_RIGHT } from '../../chart';
import { aheadOf } from '../../shared/lib/clock';
import { valueText } from '../../shared/lib/format';
import { useThemeChoice } from '../../shared/lib/themeContext';
import { lengthText, MINUTE, momentText, SECOND, type Span } from '../../shared/lib/time';
import { useSize } from '../../shared/lib/useSize';
import { FiguresTable } from './FiguresTable';
import { ExportMenu, WindowMenu } from './HeadMenus';
import { blankAt, type Blank, type Trace } from './model';
import type { PenCard } from './PenCards';
import { takePicture, takeVectors, type Legend } from './picture';
import { defaultTagsQuery, notesQuery, sheetsQuery } from './queries';
import { held, lengthOf, rangeOf, SCALES, spanOf, zoomed, type Scales, type TrendState } from './state';
import { TrendDrawer, type DrawerPanel } from './TrendDrawer';
import { TrendRail } from './TrendRail';
import { TrendView, type TrendStatus } from './TrendView';
import { useCards } from './useCards';
import { useGhosts } from './useGhosts';
import { useNow } from './useNow';
import { usePens, useStrips } from './usePens';
import { useTraces } from './useTraces';
import { useTrendKeys } from './useTrendKeys';
import { useTrendState, type TrendActions } from './useTrendState';

/** What the shell tells a page: an action asked for in the top bar. */
export interface ShellRequest {
  findTag: number;
}

const NONE: string[] = [];

/** A trend: joins state, history and live values with the view. */
export function TrendPage(): ReactElement {
  const { tokens, toggle: toggleTheme } = useThemeChoice();
  const { findTag } = useOutletContext<ShellRequest>();
  const defaults = useQuery(defaultTagsQuery);
  const { state, actions } = useTrendState(defaults.data ?? NONE);
  const uids = useMemo(() => state.tags ?? defaults.data ?? NONE, [state.tags, defaults.data]);
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

  const { known, others, live, curves, tagsError } = useTraces(state, uids, span, plotWidth);
  const { status, stale, error } = curves;

  const [panel, setPanel] = usePanel(findTag);
  const [cursorUs, pointerUs, onCursor] = useCursor();
  const drawn = usePens({ known, others, state, span, tokens });
  const { pens, contacts, unseen } = drawn;
  const cards = useCards({ styled: drawn.styled, selected: state.selected, span, cursorUs, live });
  const shownCards = cards.filter((card) => !card.hidden);
  const ghosts = useGhosts(pens, span, plotWidth, state.ghostUs);
  const { data: notes } = useQuery(notesQuery(stretchOfNotes(span), ''));
  const all = useMemo(() => [...ghosts, ...drawn.guides, ...pens], [ghosts, drawn.guides, pens]);
  const strips = useStrips({
    ...{ pens: all, contacts, selected: drawn.selected, scales: state.scales, span, zone, size, tokens },
  });
  useSheetLink(state, actions);
  const visible = shownCards.map((card) => card.trace);

  const [figuresOpen, setFiguresOpen] = useState(false);
  const steady = useSteady(span, shown.mode === 'live');
  const { setWindow } = actions;
  const onMode = useCallback(() => {
    const next = shown.mode === 'live' ? held(span.startUs, span.endUs) : null;
    setWindow(next ?? { mode: 'live', lengthUs: lengthOf(shown) });
  }, [setWindow, shown, span]);
  const onSelect = useCallback(
    (uid: string) => actions.change({ selected: state.selected === uid ? null : uid }),
    [actions, state.selected],
  );
  const onFit = (): void => actions.change({ scales: state.scales === 'fit' ? 'own' : 'fit' });
  const onScales = (): void => actions.change({ scales: nextOf(state.scales) });
  const onClose = (): void => setPanel('pens');
  const onPicker = (): void => setPanel('picker');
  const toggled = (wanted: DrawerPanel) => (): void => setPanel(panel === wanted ? 'pens' : wanted);
  const onKeys = toggled('keys');
  const onMark = (name: 'a' | 'b'): void =>
    actions.change({ [name]: markAt(state[name], pointerUs.current, span) });
  const onFigures = (): void => setFiguresOpen(!figuresOpen);
  const onPicture = async (kind: 'png' | 'svg'): Promise<void> => {
    const shownWindow = `${momentText(span.startUs, zone)} to ${momentText(span.endUs, zone)} (${zone})`;
    const picture = {
      title: titleOf(known),
      window: shownWindow,
      legend: shownCards.map(legendOf),
      tokens,
    };
    if (kind === 'png') takePicture(plotHost, picture);
    else await takeVectors(strips, picture);
  };
  useTrendKeys({
    ...{ span, cursorUs, actions, onMode, onFit, onSelect, onPicker, onKeys, onClose, onMark, onFigures },
    penIds: pens.map((pen) => pen.id),
    onCursor,
    onTheme: toggleTheme,
  });

  const failure = tagsError ?? defaults.error;
  const failed = failure !== null || status === 'error';
  return (
    <TrendView
      title={titleOf(known)}
      status={statusOf(uids.length, failed, defaults.isPending, status === 'pending')}
      error={failure === null ? error : errorText(failure)}
      notice={noticeOf(live.link === 'lost', live.databaseUp, clock.failed)}
      {...{ zone, span, tokens, cursorUs, size, plotHost: setPlotHost, onFit, onScales, onKeys }}
      {...{ figuresOpen, onFigures, onSheets: toggled('sheets'), onNotes: toggled('notes') }}
      {...{ strips, unseen }}
      counts={{ pens: pens.length, contacts: contacts.length }}
      scales={state.scales}
      menus={<TrendMenus {...{ span, zone, state, actions, known, uids, plotWidth, onPicture }} />}
      figures={
        figuresOpen ? (
          <FiguresTable
            cards={shownCards}
            range={rangeOf(state, steady)}
            bounded={state.a !== null && state.b !== null}
            zone={zone}
            onClose={onFigures}
          />
        ) : null
      }
      beside={state.ghostUs === 0 ? '' : `pale: ${lengthText(state.ghostUs)} before`}
      canUndo={actions.canUndo}
      cursorBlanks={cursorUs === null || stale ? [] : blanksAt(visible, cursorUs)}
      surface={{
        marks: marksOf(state),
        notes: (notes ?? []).map((one) => ({ uid: one.uid, atUs: Number(one.start_us), text: one.text })),
        onCursor,
        onZoom: (to) => setWindow(held(to.startUs, to.endUs)),
        onPan: (to) => actions.change({ window: held(to.startUs, to.endUs) }),
        onWheel: (factor, at) => actions.change({ window: zoomed(span, factor, at) }),
      }}
      drawer={
        <TrendDrawer
          {...{ panel, setPanel, cards, uids, state, actions, span, cursorUs, zone, tokens, onSelect }}
        />
      }
      rail={<TrendRail {...{ span, nowUs, zone, state, styled: drawn.styled, actions, onMode }} />}
      onAdd={onPicker}
      onUndo={actions.undo}
    />
  );
}

/** Which panel the drawer shows; a new request from the top bar opens the list of tags. */
function usePanel(findTag: number): [DrawerPanel, (panel: DrawerPanel) => void] {
  const [panel, setPanel] = useState<DrawerPanel>('pens');
  const [seen, setSeen] = useState(findTag);
  if (seen !== findTag) {
    setSeen(findTag);
    setPanel('picker');
  }
  return [panel, setPanel];
}

/** A live window in steps: figures of it are asked for now and then, not at every frame. */
function useSteady(span: Span, live: boolean): Span {
  const [steady, setSteady] = useState(span);
  const length = span.endUs - span.startUs;
  const moved = Math.abs(span.endUs - steady.endUs) >= (live ? Math.max(length / 50, 2 * SECOND) : 1);
  if (moved || length !== steady.endUs - steady.startUs) setSteady(span);
  return steady;
}

/** A link that names a sheet and nothing else opens it as it was saved. */
function useSheetLink(state: TrendState, actions: TrendActions): void {
  const wanted = state.tags === null && state.sheet !== null ? state.sheet : null;
  const { data: sheets } = useQuery({ ...sheetsQuery, enabled: wanted !== null });
  useEffect(() => {
    const found = sheets?.find((one) => one.uid === wanted);
    if (found !== undefined) actions.open(`${found.view}&sheet=${found.uid}`);
  }, [sheets, wanted, actions]);
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

/** A cursor put at the pointer, or at the middle; where it stood already it is taken away. */
function markAt(before: number | null, cursorUs: number | null, span: Span): number | null {
  const atUs = cursorUs ?? (span.startUs + span.endUs) / 2;
  const near = (span.endUs - span.startUs) / 400;
  return before !== null && Math.abs(before - atUs) < near ? null : Math.round(atUs);
}

interface TrendMenusProps {
  span: Span;
  zone: string;
  state: TrendState;
  actions: TrendActions;
  known: readonly Trace[];
  uids: readonly string[];
  plotWidth: number;
  onPicture: (kind: 'png' | 'svg') => Promise<void>;
}

function TrendMenus(props: TrendMenusProps): ReactElement {
  const { span, zone, state, actions, known, uids, plotWidth, onPicture } = props;
  return (
    <>
      <WindowMenu
        {...{ span, zone, ghostUs: state.ghostUs }}
        onSpan={(to) => actions.setWindow(held(to.startUs, to.endUs))}
        onGhost={(ghostUs) => actions.change({ ghostUs })}
        onFirst={() => actions.setWindow(held(...toFirst(known, span)))}
      />
      <ExportMenu tags={uids} span={rangeOf(state, span)} width={plotWidth} onPicture={onPicture} />
    </>
  );
}

function nextOf(scales: Scales): Scales {
  return SCALES[(SCALES.indexOf(scales) + 1) % SCALES.length] ?? 'own';
}

function marksOf(state: TrendState): { name: 'A' | 'B'; atUs: number }[] {
  return [
    ...(state.a === null ? [] : [{ name: 'A' as const, atUs: state.a }]),
    ...(state.b === null ? [] : [{ name: 'B' as const, atUs: state.b }]),
  ];
}

/** Notes are read for a stretch in steps, so that a live window does not ask at every frame. */
function stretchOfNotes(span: Span): Span {
  const step = Math.max((span.endUs - span.startUs) / 4, MINUTE);
  return {
    startUs: Math.max(Math.floor(span.startUs / step) * step, 0),
    endUs: Math.ceil(span.endUs / step) * step,
  };
}

function legendOf({ trace, colour, scale, value }: PenCard): Legend {
  return {
    number: trace.number,
    name: trace.tag.name,
    colour,
    scale: scale === null ? '' : `${scale.low} to ${scale.high} ${trace.tag.unit}`,
    value: `${valueText(value, trace.tag.decimals)} ${trace.tag.unit}`,
  };
}

/** The window moved to where the first of the pens begins. */
function toFirst(known: readonly Trace[], span: Span): [number, number] {
  const begun = known.map((trace) => trace.recordedSinceUs).filter((us) => us > 0);
  const startUs = begun.length === 0 ? span.startUs : Math.min(...begun);
  return [startUs, startUs + span.endUs - span.startUs];
}

/** How far the server's clock is ahead of the browser's; what is below a second does not matter. */
function useServerClock(): { offsetUs: number; failed: boolean } {
  const { data, error } = useQuery(healthQuery);
  const ahead =
    data === undefined ? 0 : aheadOf(Number(data.now_us), data.askedMs * 1000, data.answeredMs * 1000);
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
