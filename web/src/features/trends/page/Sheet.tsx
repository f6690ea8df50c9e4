/** A trend as it is seen: head, plot, figures and drawer, each with its part of what there is. */
import type { ReactElement } from 'react';
import { useMemo } from 'react';
import * as wording from 'texts/trends.json';
import { errorText } from '../../../platform/errors';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import type { Followed } from '../data/useTraces';
import { DrawerPanels, TrendDrawer } from '../drawer/TrendDrawer';
import { CompareMenu, ExportMenu, Head } from '../head/Head';
import { helpersOf } from '../model/looks';
import type { Trace } from '../model/model';
import { commonEquipment } from '../model/sisters';
import { besideOf, noticeOf, statusOf } from '../model/pageTexts';
import type { Allowed, TrendState } from '../model/state';
import { SheetStrips } from '../plot/SheetStrips';
import { useTrendValue } from '../store/context';
import { CursorNote } from './CursorNote';
import { Room, useAround } from './Room';
import { FiguresTable, SheetFigures } from './SheetFigures';
import { TrendView } from './TrendView';
import type { ShellRequest } from './useAddedTag';
import { useSheet } from './useSheet';
import type { TrendOn } from './useTrendOn';

/** It comes after the curves. */
const RailFeed = lazyPart(wording.theRailOfTime, async () => (await import('../plot/RailFeed')).RailFeed);
const PRELOADED = [CompareMenu, ExportMenu, DrawerPanels, FiguresTable];
const HEAD_PX = 43;

interface SheetProps {
  permissions: readonly Allowed[] | null;
  hasRail: boolean;
  request: ShellRequest;
  name: string | undefined;
}

export function Sheet({ permissions, hasRail, request, name }: SheetProps): ReactElement {
  const sheet = useSheet(permissions, request);
  const {
    state,
    store,
    zone,
    tokens,
    followed,
    placed,
    deferred,
    size,
    panel,
    setPanel,
    figuresOpen,
    cards,
    on,
    error,
  } = sheet;
  const { span, nowUs, isLive } = placed;
  const { live, uids } = followed;
  const { plotWidth, known, curves, drawn, shownPens } = sheet.drawn;
  const { pens, contacts, unseen } = drawn;
  // The curves come first: what stands around them is built while they are on their way.
  const around = useAround(uids.length === 0 ? !sheet.isChoosing : curves.status !== 'pending');
  usePreloaded(around, PRELOADED);
  const isFailed = error !== null || curves.status === 'error';
  const status = statusOf(uids.length, isFailed, sheet.isChoosing, curves.status === 'pending');
  const timed = state.allow === null || state.allow.includes('time');
  return (
    <TrendView
      onTouched={sheet.onTouched}
      isNarrow={name !== undefined}
      isLarge={state.large}
      isAlone={sheet.isAlone}
      hasDrawer={state.display.drawer || panel !== 'pens'}
      onLeave={on.onWhole}
      head={
        <HeadOf
          isReady={around}
          state={state}
          figuresOpen={figuresOpen}
          zone={zone}
          plotWidth={plotWidth}
          on={on}
          title={name ?? sheet.title}
          isPart={name !== undefined}
          followed={followed}
          known={known}
        />
      }
      status={status}
      error={error === null ? curves.error : errorText(error)}
      notice={noticeOf(live, placed.isClockUnknown)}
      gone={followed.gone.length}
      onTakeOff={on.onTakeOff}
      zone={zone}
      span={span}
      size={size}
      unseen={unseen}
      plotHost={sheet.setPlotHost}
      onFit={on.onFit}
      counts={{ pens: pens.length, contacts: contacts.length }}
      strips={
        <SheetStrips
          state={state}
          followed={followed}
          span={span}
          nowUs={nowUs}
          size={size}
          zone={zone}
          tokens={tokens}
          gutterRight={sheet.drawn.gutterRight}
          uids={uids}
          on={on}
          pens={sheet.drawn.all}
          contacts={contacts}
        />
      }
      cursor={
        <CursorNote zone={zone} span={span} styled={shownPens} isStale={curves.stale} width={size.width} />
      }
      figures={
        figuresOpen && (
          <SheetFigures
            styled={shownPens}
            state={state}
            span={span}
            isLive={isLive}
            zone={zone}
            onClose={on.onFigures}
          />
        )
      }
      drawer={
        around && (
          <TrendDrawer
            panel={panel}
            setPanel={setPanel}
            uids={uids}
            state={state}
            actions={store.actions}
            span={span}
            zone={zone}
            tokens={tokens}
            cards={cards}
            shown={deferred}
            onSelect={on.onSelect}
            onRemove={on.onRemove}
            onRemoveAll={on.onRemoveAll}
          />
        )
      }
      rail={
        hasRail &&
        timed &&
        around &&
        !sheet.isAlone && <RailFeed shown={deferred} zone={zone} store={store} on={on} />
      }
    />
  );
}

interface HeadOfProps {
  isReady: boolean;
  title: string;
  isPart: boolean;
  state: TrendState;
  followed: Followed;
  known: readonly Trace[];
  figuresOpen: boolean;
  zone: string;
  plotWidth: number;
  on: TrendOn;
}

function HeadOf({ isReady, state, followed, on, ...props }: HeadOfProps): ReactElement {
  const canUndo = useTrendValue((values) => values.past.length > 0);
  const placing = useTrendValue((values) => values.placing);
  const { known } = props;
  const equipment = useMemo(() => commonEquipment(known), [known]);
  const sisterTags = useMemo(
    () => [...followed.real, ...helpersOf(state.looks, followed.real)],
    [followed.real, state.looks],
  );
  const { a, b } = state;
  const cursors = useMemo(
    () => [...(a === null ? [] : (['A'] as const)), ...(b === null ? [] : (['B'] as const))],
    [a, b],
  );
  const names = useMemo(() => new Map(followed.tags.map((tag) => [tag.uid, tag.name])), [followed.tags]);
  return (
    <Room ready={isReady} height={HEAD_PX}>
      <Head
        {...props}
        equipment={equipment}
        sisterTags={sisterTags}
        on={on}
        canUndo={canUndo}
        uids={followed.real}
        archives={followed.archives}
        scales={state.scales}
        ghostUs={state.ghostUs}
        refresh={state.refresh}
        allow={state.allow}
        cursors={cursors}
        placing={placing}
        beside={besideOf(state, names, props.zone)}
      />
    </Room>
  );
}
