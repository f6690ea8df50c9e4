/** The time rail of the page that is open. */
import { useQuery } from '@tanstack/react-query';
import { memo, useDeferredValue, useMemo, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import * as wording from 'texts/app.json';
import { coarse } from '../../domain/steps';
import { DAY, HOUR, type Span } from '../../domain/time';
import { fixedWindow } from '../../domain/windows';
import { useServerNow } from '../../entities/clock';
import { notesQuery } from '../../entities/notes';
import { plantQuery } from '../../entities/plant';
import { runsInQuery } from '../../entities/runs';
import { useSettled } from '../../platform/useSettled';
import { lazyPart, usePreloaded } from '../../ui/lazyPart';
import { railStore, stretchOf, TimeRail, type RailContents, type RailMark } from '../../ui/timerail';

const WindowPanel = lazyPart(
  wording.theChoiceOfWindows,
  async () => (await import('./WindowPanel')).WindowPanel,
);
const PRELOADED = [WindowPanel];
/** What lies around the window is asked for when it rests: the page's own comes first. */
const AFTER_MS = 1_000;
const JUST_NOW_US = 10_000_000;

export function ShellRail(): ReactElement | null {
  // The page comes first, the rail follows it a moment later.
  const contents = useDeferredValue(useStore(railStore, (values) => values.contents));
  return contents === null ? null : <Rail contents={contents} />;
}

const Rail = memo(function Rail({ contents }: { contents: RailContents }): ReactElement {
  const { window, span, gaps } = contents;
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const nowUs = useServerNow(true);
  const { startUs, endUs } = stretchOf(span ?? { startUs: nowUs - HOUR, endUs: nowUs }, nowUs);
  const stretch = useMemo(() => ({ startUs, endUs }), [startUs, endUs]);
  const marks = useMarks(stretch, nowUs, gaps);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  usePreloaded(plant !== undefined, PRELOADED);
  const step = (share: number): void => {
    if (span === null) return;
    const by = (span.endUs - span.startUs) * share;
    contents.onWindow(fixedWindow(span.startUs + by, span.endUs + by));
  };
  return (
    <>
      <TimeRail
        window={window}
        span={span}
        stretch={stretch}
        zone={zone}
        marks={marks}
        bars={contents.bars}
        onMove={contents.onMove}
        onLive={contents.onLive}
        onStep={step}
        onChoose={setAnchor}
        isChoosing={anchor !== null}
      />
      {anchor !== null && (
        <WindowPanel
          anchor={anchor}
          contents={contents}
          zone={zone}
          span={span ?? { startUs: nowUs - DAY, endUs: nowUs }}
          onClose={() => setAnchor(null)}
        />
      )}
    </>
  );
});

/** Runs and notes of a stretch, and where the page has no data. */
function useMarks(stretch: Span, nowUs: number, gaps: RailContents['gaps']): RailMark[] {
  // In steps as long as the stretch: as time goes on it moves, and they need not be asked for anew.
  const length = coarse(stretch.endUs - stretch.startUs);
  const startUs = Math.floor(stretch.startUs / length) * length;
  const endUs = Math.ceil(stretch.endUs / length) * length;
  const asked = useSettled(
    useMemo(() => ({ startUs, endUs }), [startUs, endUs]),
    AFTER_MS,
  );
  const { data: notes = [] } = useQuery(notesQuery(asked, ''));
  const { data: runs = [] } = useQuery(runsInQuery(asked));
  return useMemo(() => {
    const ofRuns = runs.map((run) => ({
      id: run.uid,
      kind: 'run' as const,
      startUs: Number(run.start_us),
      endUs: run.end_us === null ? nowUs : Number(run.end_us),
      text: run.name,
    }));
    const ofNotes = notes.map((note) => ({
      id: note.uid,
      kind: 'note' as const,
      startUs: Number(note.start_us),
      endUs: Number(note.start_us),
      text: note.text,
    }));
    // What has not come yet is no gap.
    const ofGaps = gaps
      .filter((gap) => gap.startUs < nowUs - JUST_NOW_US)
      .map((gap) => ({ ...gap, id: `gap ${gap.startUs} ${gap.text}`, kind: 'gap' as const }));
    return [...ofRuns, ...ofNotes, ...ofGaps]
      .filter((mark) => mark.endUs >= stretch.startUs && mark.startUs <= stretch.endUs)
      .map((mark) => ({
        ...mark,
        startUs: Math.max(mark.startUs, stretch.startUs),
        endUs: Math.min(mark.endUs, stretch.endUs),
      }));
  }, [runs, notes, gaps, nowUs, stretch]);
}
