/** What can be done with a trend: the same functions at each render. */
import { useRef, type RefObject } from 'react';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { fixedWindow } from '../../../domain/windows';
import { momentText, type Span } from '../../../domain/time';
import { say } from '../../../ui/toasts';
import type { Tokens } from '../../../ui/tokens';
import { useHandlers } from '../../../platform/useHandlers';
import type { HeadActions } from '../model/headProps';
import { changed, editable, higher, withPen, type Strip } from '../model/layout';
import { scaleOwner, withLook, withoutTags, type Looks } from '../model/looks';
import { commonEquipment, sisterOf } from '../model/sisters';
import type { Trace } from '../model/model';
import { legendOf, toFirst, toLast } from '../model/pageTexts';
import type { Picture } from '../plot/picture';
import { rangeOf, SCALES, zoomed, type ScaleEnds, type Scales, type TrendState } from '../model/state';
import type { Mark } from '../plot/Marks';
import type { PlacedCharts } from '../plot/StripCell';
import type { DrawerPanel } from '../model/drawerProps';
import type { LiveSnapshot } from '../data/useLive';
import type { PenCard } from '../drawer/PenCards';
import type { TrendStore } from '../store/trendStore';
import type { FullScreen } from './useFullScreen';

interface Parts {
  state: TrendState;
  store: TrendStore;
  span: Span;
  panel: DrawerPanel;
  setPanel: (panel: DrawerPanel) => void;
  fullScreen: FullScreen;
  figuresOpen: boolean;
  setFiguresOpen: (open: boolean) => void;
  known: readonly Trace[];
  title: string;
  /** What came in live. */
  tails: LiveSnapshot['tails'];
  uids: readonly string[];
  /** What the view names and no tag has any more. */
  gone: readonly string[];
  zone: string;
  tokens: Tokens;
  plotHost: HTMLElement | null;
  /** The cards beside the plot. */
  cards: RefObject<readonly PenCard[]>;
}

export type TrendOn = HeadActions &
  Readonly<{
    onMode: () => void;
    onSelect: (uid: string) => void;
    onFit: () => void;
    onTakeOff: () => void;
    onClose: () => void;
    onMark: (name: 'a' | 'b') => void;
    onMarkAt: (name: Mark['name'], atUs: number) => void;
    onRemove: (uid: string) => void;
    onRemoveAll: () => void;
    onPan: (to: Span) => void;
    onWheel: (factor: number, at: number) => void;
    onScale: (uid: string, low: number, high: number) => void;
    onEnds: (ends: readonly ScaleEnds[]) => void;
    /** A stretch was dragged over, of time alone or of the scales too. */
    onZoom: (to: Span, ends: readonly ScaleEnds[]) => void;
    onDropTag: (uid: string, place: number) => void;
    onStrip: (place: number, change: Partial<Strip>) => void;
    onHigher: (place: number, by: number) => void;
    onPlaced: (place: number, placed: PlacedCharts | null) => void;
  }>;

export function useTrendOn(parts: Parts): TrendOn {
  const { state, store, span, panel, setPanel, figuresOpen, setFiguresOpen, known, uids, zone } = parts;
  const { gone, tails, tokens, plotHost, cards, fullScreen } = parts;
  const { actions } = store;
  const charts = useRef(new Map<number, PlacedCharts>());
  const toggled = (wanted: DrawerPanel): void => setPanel(panel === wanted ? 'pens' : wanted);
  const picture = (): Picture => ({
    title: parts.title,
    window: `${momentText(span.startUs, zone)} to ${momentText(span.endUs, zone)} (${zone})`,
    legend: cards.current.filter((card) => !card.hidden).map(legendOf),
    tokens,
  });
  return useHandlers({
    onAdd: () => setPanel('picker'),
    onScales: () => actions.change({ scales: nextOf(state.scales) }),
    onFigures: () => setFiguresOpen(!figuresOpen),
    onStrips: () => toggled('strips'),
    onSheets: () => toggled('sheets'),
    onNotes: () => toggled('notes'),
    onKeys: () => toggled('keys'),
    onWhole: fullScreen.toggle,
    onUndo: actions.undo,
    onSpan: (to: Span) => actions.setWindow(fixedWindow(to.startUs, to.endUs)),
    onGhost: (ghostUs: number) => actions.change({ ghostUs }),
    onFirst: () => actions.setWindow(fixedWindow(...toFirst(known, span))),
    onLast: () => actions.setWindow(fixedWindow(...toLast(known, span, tails))),
    onSisters: (equipment: string, pairs: readonly (readonly [string, string | null])[]) => {
      const found = pairs.filter((pair): pair is [string, string] => pair[1] !== null);
      const lost = pairs.filter(([uid, sister]) => sister === null && uids.includes(uid)).length;
      actions.change((now) => sisterOf(now, uids, new Map(found), [commonEquipment(known), equipment]));
      if (lost > 0) {
        say(fill(wording.lostOfCountPensHaveNo, { lost, count: uids.length, equipment }), () => {
          actions.change(pensIn(state));
          return Promise.resolve(wording.theTrendIsAsItWas);
        });
      }
    },
    onRemove: (uid: string) => {
      const name = known.find(({ tag }) => tag.uid === uid)?.name ?? wording.thePen;
      actions.toggleTag(uid, uids);
      say(fill(wording.nameIsRemoved, { name }), () => {
        actions.change((now) => ({ tags: putBack(now.tags ?? [], uids, uid) }));
        return Promise.resolve(fill(wording.nameIsBack, { name }));
      });
    },
    onRemoveAll: () => {
      actions.change({ tags: [] });
      say(wording.allPensAreRemoved, () => {
        actions.change((now) => ({ tags: [...new Set([...uids, ...(now.tags ?? [])])] }));
        return Promise.resolve(wording.thePensAreBack);
      });
    },
    onRefresh: (refresh: TrendState['refresh']) => actions.change({ refresh }),
    spanNow: () => span,
    rangeNow: () => rangeOf(state, span),
    // What draws a picture for a file is loaded when one is wanted.
    onPicture: async (kind: 'png' | 'svg') => {
      const { takePicture } = await import('../plot/picture');
      await takePicture(kind, plotHost, [...charts.current.values()], picture());
    },
    onPrint: async () => {
      const { printPicture } = await import('../plot/picture');
      await printPicture(plotHost, [...charts.current.values()], picture());
    },
    onMode: () => actions.toggleLive(span),
    onSelect: (uid: string) => actions.change({ selected: state.selected === uid ? null : uid }),
    onFit: () => actions.change({ scales: state.scales === 'fit' ? 'own' : 'fit' }),
    onTakeOff: () =>
      actions.change((now) => ({
        tags: (now.tags ?? []).filter((uid) => !gone.includes(uid)),
        looks: withoutTags(now.looks, gone),
      })),
    onClose: () => {
      setPanel('pens');
      fullScreen.leave();
    },
    onMark: (name: 'a' | 'b') =>
      actions.change({ [name]: markAt(state[name], store.values.getState().pointerUs, span) }),
    onMarkAt: (name: Mark['name'], atUs: number) => {
      const { placing } = store.values.getState();
      actions.change(name === 'A' ? { a: Math.round(atUs) } : { b: Math.round(atUs) });
      if (placing === null) return;
      const isBoth = (name === 'A' ? state.b : state.a) !== null;
      actions.place(isBoth ? null : name === 'A' ? 'B' : 'A');
      // Who places two cursors wants to know what lies between them.
      if (isBoth) setFiguresOpen(true);
    },
    onPlace: (name: Mark['name']) => {
      const { placing } = store.values.getState();
      const key = name === 'A' ? 'a' : 'b';
      if (state[key] !== null) actions.change({ [key]: null });
      actions.place(state[key] !== null || placing === name ? null : name);
    },
    onPan: (to: Span) => actions.moveWindow(() => fixedWindow(to.startUs, to.endUs)),
    // Turns come faster than pictures: each one starts from the window that the turn before has made.
    onWheel: (factor: number, at: number) =>
      actions.moveWindow((now) => {
        const { startUs, endUs } = zoomed(now.kind === 'fixed' ? now : span, factor, at);
        return fixedWindow(startUs, endUs);
      }),
    onScale: (uid: string, low: number, high: number) =>
      actions.change((now) => ({ looks: withEnds(now.looks, uids, [{ uid, low, high }]) })),
    onEnds: (ends: readonly ScaleEnds[]) =>
      actions.change((now) => ({ looks: withEnds(now.looks, uids, ends) })),
    onZoom: (to: Span, ends: readonly ScaleEnds[]) => {
      const looks = ends.length === 0 ? undefined : withEnds(state.looks, uids, ends);
      actions.setWindow(fixedWindow(to.startUs, to.endUs), looks);
    },
    onDropTag: (uid: string, place: number) => {
      if (!uids.includes(uid)) actions.toggleTag(uid, uids);
      actions.change((now) => ({ strips: withPen(now.strips, place, uid, true) }));
    },
    onStrip: (place: number, change: Partial<Strip>) =>
      actions.change((now) => ({ strips: changed(editable(now.strips), place, change) })),
    onHigher: (place: number, by: number) =>
      actions.change((now) => ({ strips: higher(editable(now.strips), place, by) })),
    onPlaced: (place: number, placed: PlacedCharts | null) => {
      if (placed === null) charts.current.delete(place);
      else charts.current.set(place, placed);
    },
  });
}

/** Scales set by hand; one that several share is that of the pen which the others name. */
function withEnds(looks: Looks, uids: readonly string[], ends: readonly ScaleEnds[]): Looks {
  return ends.reduce((now, { uid, low, high }) => {
    const owner = scaleOwner(now, uid, (one) => uids.includes(one));
    return withLook(now, owner, { low, high, lowTag: undefined, highTag: undefined });
  }, looks);
}

/** A cursor put at the pointer, or at the middle; where it stood already it is taken away. */
function markAt(before: number | null, cursorUs: number | null, span: Span): number | null {
  const atUs = cursorUs ?? (span.startUs + span.endUs) / 2;
  const near = (span.endUs - span.startUs) / 400;
  return before !== null && Math.abs(before - atUs) < near ? null : Math.round(atUs);
}

/** What a trend shows of its pens, to come back to. */
function pensIn({ tags, hidden, selected, looks, strips, sheet }: TrendState): Partial<TrendState> {
  return { tags, hidden, selected, looks, strips, sheet };
}

/** A pen at its place among those that are there still. */
function putBack(now: readonly string[], before: readonly string[], uid: string): string[] {
  if (now.includes(uid)) return [...now];
  const behind = before.slice(before.indexOf(uid) + 1).find((one) => now.includes(one));
  const place = behind === undefined ? now.length : now.indexOf(behind);
  return [...now.slice(0, place), uid, ...now.slice(place)];
}

function nextOf(scales: Scales): Scales {
  return SCALES[(SCALES.indexOf(scales) + 1) % SCALES.length] ?? 'own';
}
