/** What the drawer shows when asked for: loaded then. */
import { useState, type ReactElement } from 'react';
import { v4 as newUid } from 'uuid';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { KeysPanel } from './KeysPanel';
import { exchangedPens } from '../model/layout';
import { likeTheLast, withLook, type Looks } from '../model/looks';
import type { MadePen } from '../model/made';
import { MadePanel } from './MadePanel';
import { NotesPanel } from './NotesPanel';
import type { PenCard } from './PenCards';
import { PenPanel } from './PenPanel';
import { SheetsPanel } from './SheetsPanel';
import { readDocument } from '../model/document';
import { commonEquipment } from '../model/sisters';
import { MOST_TAGS, rangeOf, type TrendState } from '../model/state';
import { fixedWindow } from '../../../domain/windows';
import { LayoutPanel } from './LayoutPanel';
import { TagPicker } from './TagPicker';
import type { TrendDrawerProps } from '../model/drawerProps';

export interface DrawerPanelsProps extends Omit<TrendDrawerProps, 'shown' | 'cards'> {
  cards: readonly PenCard[];
  cursorUs: number | null;
  /** The pen whose properties are open. */
  edited: string | null;
  setEdited: (uid: string | null) => void;
  /** The pen that is to show another tag. */
  pointed: string | null;
  setPointed: (uid: string | null) => void;
}

export function DrawerPanels(props: DrawerPanelsProps): ReactElement | null {
  const { panel, setPanel, cards, uids, state, actions, span, cursorUs, zone } = props;
  const { edited, setEdited, pointed, setPointed } = props;
  const [keeps, setKeeps] = useState(true);
  const onClose = (): void => {
    setPanel('pens');
    setPointed(null);
    setEdited(null);
  };
  const card = cards.find((one) => one.trace.tag.uid === edited);
  if (panel === 'picker') {
    const pick = (uid: string): void => {
      if (pointed === null) {
        actions.toggleTag(uid, uids);
        if (!uids.includes(uid)) actions.change((now) => ({ looks: likeTheLast(now.looks, uids, uid) }));
        return;
      }
      const strips = exchangedPens(state.strips, new Map([[pointed, uid]]));
      const colour = keeps ? cards.find((one) => one.trace.tag.uid === pointed)?.colour : undefined;
      const looks = movedLook(state, pointed, uid, colour);
      actions.change({ tags: repointed(uids, pointed, uid), strips, looks });
      onClose();
    };
    return (
      <TagPicker
        chosen={uids}
        most={MOST_TAGS}
        onToggle={pick}
        onMake={pointed === null ? () => setPanel('made') : null}
        onClose={onClose}
      />
    );
  }
  const remade = edited === null ? undefined : state.made[edited];
  const make = (uid: string, pen: MadePen): void => actions.change((now) => withMade(now, uids, uid, pen));
  if (panel === 'made') {
    const save = (pen: MadePen): void => {
      make(remade === undefined || edited === null ? newUid() : edited, pen);
      onClose();
    };
    return <MadePanel pen={remade ?? null} onSave={save} onClose={onClose} />;
  }
  if (panel === 'strips') {
    return (
      <LayoutPanel
        display={state.display}
        onDisplay={(change) => actions.change((now) => ({ display: { ...now.display, ...change } }))}
        large={state.large}
        onLarge={(large) => actions.change({ large })}
        strips={state.strips}
        pens={cards.map(({ trace }) => ({ uid: trace.tag.uid, name: trace.name }))}
        span={span}
        onStrips={(change) => actions.change((now) => ({ strips: change(now.strips) }))}
        onClose={onClose}
      />
    );
  }
  if (panel === 'keys') return <KeysPanel onClose={onClose} />;
  if (panel === 'sheets') {
    return (
      <SheetsPanel
        state={state}
        uids={uids}
        line={commonEquipment(cards.map((card) => card.trace))}
        onOpen={(view, sheet) => actions.open({ ...readDocument(view), sheet })}
        onSaved={(sheet) => actions.change({ sheet })}
        onClose={onClose}
      />
    );
  }
  if (panel === 'notes') {
    const bounded = state.a !== null && state.b !== null;
    const range = rangeOf(state, span);
    return (
      <NotesPanel
        span={span}
        startUs={bounded ? range.startUs : (state.a ?? state.b ?? cursorUs ?? span.endUs)}
        endUs={bounded ? range.endUs : null}
        tags={cards.map((one) => ({ uid: one.trace.tag.uid, name: one.trace.name }))}
        zone={zone}
        onGo={(note) => {
          const half = (span.endUs - span.startUs) / 2;
          actions.setWindow(fixedWindow(Number(note.start_us) - half, Number(note.start_us) + half));
        }}
        onClose={onClose}
      />
    );
  }
  if (card !== undefined) {
    const uid = card.trace.tag.uid;
    return (
      <PenPanel
        key={uid}
        card={card}
        look={state.looks[uid] ?? {}}
        others={cards
          .filter((one) => one.scale !== null && one.trace.tag.uid !== uid)
          .map(({ trace }) => ({ uid: trace.tag.uid, name: trace.name }))}
        onLook={(change) => actions.change((now) => ({ looks: withLook(now.looks, uid, change) }))}
        onPoint={(keep) => {
          setKeeps(keep);
          setPointed(uid);
          setPanel('picker');
        }}
        onMove={(by) => actions.change({ tags: moved(uids, uid, by) })}
        onMake={remade === undefined ? null : () => setPanel('made')}
        onSmooth={remade === undefined ? () => make(newUid(), smoothed(card)) : null}
        onClose={onClose}
      />
    );
  }
  return null;
}

/** The view with a made pen, new or made anew; records are points. */
function withMade(now: TrendState, uids: readonly string[], uid: string, pen: MadePen): Partial<TrendState> {
  return {
    made: { ...now.made, [uid]: pen },
    tags: uids.includes(uid) ? [...uids] : [...uids, uid],
    looks: pen.logger === '' ? now.looks : withLook(now.looks, uid, { draw: 'points' }),
  };
}

const SMOOTHED_S = 60;

/** A running mean of a pen, as a pen beside it that says so. */
function smoothed({ trace: { tag, name } }: PenCard): MadePen {
  return {
    name: fill(wording.nameMeanOfValueS, { name, value: SMOOTHED_S }),
    unit: tag.unit,
    low: tag.range_low,
    high: tag.range_high,
    formula: `average(x, ${SMOOTHED_S} s)`,
    inputs: { x: tag.uid },
    logger: '',
    column: 0,
  };
}

function repointed(uids: readonly string[], from: string, to: string): string[] {
  return uids.filter((uid) => uid !== to).map((uid) => (uid === from ? to : uid));
}

const OF_THE_TAG = {
  low: undefined,
  high: undefined,
  lowTag: undefined,
  highTag: undefined,
  lines: undefined,
  guides: undefined,
  log: undefined,
  stepped: undefined,
  decimals: undefined,
  legend: undefined,
  archive: undefined,
};

/** A pen that shows another tag keeps how it looks, its scale apart: that was the other tag's. Its colour is
 * the one given, or that of its new tag. */
function movedLook(state: TrendState, from: string, to: string, colour: string | undefined): Looks {
  const look = { ...state.looks[from], ...OF_THE_TAG, colour };
  const others = Object.fromEntries(Object.entries(state.looks).filter(([uid]) => uid !== from));
  return withLook(others, to, look);
}

function moved(uids: readonly string[], uid: string, by: number): string[] {
  const others = uids.filter((one) => one !== uid);
  const place = Math.min(Math.max(uids.indexOf(uid) + by, 0), others.length);
  return [...others.slice(0, place), uid, ...others.slice(place)];
}
