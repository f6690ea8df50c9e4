/** One strip of a sheet: its title, and its pens over its window. */
import { Box, Typography } from '@mui/material';
import { memo, useEffect, useMemo, useState, type DragEvent, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import {
  GUTTER_LEFT,
  plotRows,
  TimeChart,
  valueAt,
  type ChartInk,
  type ContactRow,
  type Pen,
  type TimeChartProps,
} from '../../../chart';
import { lengthText, momentText, type Span } from '../../../domain/time';
import type { Tokens } from '../../../ui/tokens';
import { TAG_DRAG, type OwnWindow, type Strip } from '../model/layout';
import { PlotSurface, type PlotSurfaceProps } from './PlotSurface';
import { ScaleGrip } from './ScaleGrip';
import type { Display } from '../model/display';
import { readableEnds } from '../model/scales';
import { axisPen, chartLook, stripsOf } from '../model/strips';
import type { ScaleEnds, Scales } from '../model/state';

/** Where a strip's charts lie on the page of the sheet, CSS pixels: what a picture of them needs. */
export interface PlacedCharts {
  left: number;
  top: number;
  charts: readonly TimeChartProps[];
}

/** What all strips of a sheet share. */
export interface CellShared {
  zone: string;
  tokens: Tokens;
  scales: Scales;
  selected: string | null;
  gutterRight: number;
  large: boolean;
  display: Display;
  ink: ChartInk;
  marks: PlotSurfaceProps['marks'];
  notes: PlotSurfaceProps['notes'];
  onMark: PlotSurfaceProps['onMark'];
  isFree: boolean;
  /** A pen's scale, set by hand; not where the view may not be changed. */
  onScale: ((uid: string, low: number, high: number) => void) | null;
  /** A tag was let go over this strip. */
  onDropTag: ((uid: string, place: number) => void) | null;
  onPlaced: (place: number, charts: PlacedCharts | null) => void;
}

export interface CellPlace {
  place: number;
  strip: Strip;
  /** Uids of its pens. */
  uids: readonly string[];
  left: number;
  top: number;
  width: number;
  height: number;
}

interface CellProps {
  at: CellPlace;
  shared: CellShared;
  pens: readonly Pen[];
  contacts: readonly ContactRow[];
  span: Span;
  /** A stretch was dragged over, with the ends that the scales have there where it was an area. */
  onZoom: (span: Span, ends: readonly ScaleEnds[]) => void;
  onPan: (span: Span) => void;
  onWheel: (factor: number, aroundUs: number) => void;
}

const HEAD = 20;

export function StripCell({ at, shared, pens, contacts, span, onZoom, ...on }: CellProps): ReactElement {
  const { place, strip, uids, width } = at;
  const { zone, tokens, scales, selected, gutterRight, large, display, ink, onPlaced, onDropTag } = shared;
  const headed = strip.title !== '' || strip.window !== null;
  const height = at.height - (headed ? HEAD : 0);
  const { markers, grid } = strip;
  const mine = useMemo(() => {
    const found = pens.filter((pen) => uids.includes(pen.id.slice(0, UID_LENGTH)));
    return markers ? found.map((pen) => (pen.number > 0 ? { ...pen, markers } : pen)) : found;
  }, [pens, uids, markers]);
  const look = useMemo(() => chartLook(display, grid), [display, grid]);
  const rows = useMemo(() => contacts.filter((row) => uids.includes(row.id)), [contacts, uids]);
  const charts = useMemo(
    () =>
      stripsOf({
        pens: mine,
        contacts: rows,
        selected,
        scales,
        span,
        zone,
        gutterRight,
        large,
        tokens,
        ink,
        look,
        size: { width, height },
      }),
    [mine, rows, selected, scales, span, zone, width, height, gutterRight, large, tokens, ink, look],
  );
  const { left, top } = at;
  const chartsTop = top + (headed ? HEAD : 0);
  useEffect(() => {
    onPlaced(place, { left, top: chartsTop, charts });
    return () => onPlaced(place, null);
  }, [onPlaced, place, left, chartsTop, charts]);
  const [over, setOver] = useState(false);
  const drag = (event: DragEvent): void => {
    if (onDropTag === null || !event.dataTransfer.types.includes(TAG_DRAG)) return;
    event.preventDefault();
    setOver(true);
  };
  const gripped = axisPen(mine, selected, 'left');
  return (
    <Box
      data-testid="strip"
      sx={{ position: 'relative', outline: over ? 2 : 0, outlineColor: 'primary.main', outlineOffset: -2 }}
      style={{ width, height: at.height }}
      onDragOver={drag}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        setOver(false);
        const uid = event.dataTransfer.getData(TAG_DRAG);
        if (uid !== '') onDropTag?.(uid, place);
      }}
    >
      {headed && <StripHead strip={strip} span={span} zone={zone} />}
      <PlotSurface
        marks={shared.marks}
        notes={shared.notes}
        onMark={shared.onMark}
        isFree={shared.isFree}
        span={span}
        width={width}
        gutterRight={gutterRight}
        isArea={display.area && shared.onScale !== null && mine.length > 0}
        onZoom={(to, area) => onZoom(to, area === null ? [] : endsIn(mine, area, charts[0]))}
        {...on}
        accent={tokens.accent}
        ink={tokens.ink}
      >
        <Charts charts={charts} />
      </PlotSurface>
      {gripped !== undefined && shared.onScale !== null && scales !== 'percent' && (
        <ScaleGrip
          pen={gripped}
          top={headed ? HEAD : 0}
          width={GUTTER_LEFT}
          height={charts[0]?.height ?? 0}
          onScale={shared.onScale}
        />
      )}
    </Box>
  );
}

const UID_LENGTH = 36;

/** The ends of each pen's scale in a part of the plot, given in CSS pixels from the chart's upper edge. */
function endsIn(
  pens: readonly Pen[],
  area: { top: number; bottom: number },
  chart: TimeChartProps | undefined,
): ScaleEnds[] {
  if (chart === undefined) return [];
  const { top, height } = plotRows(chart);
  const share = (px: number): number => Math.min(Math.max(1 - (px - top) / height, 0), 1);
  const [low, high] = [share(area.bottom), share(area.top)];
  return pens
    .filter((pen) => pen.number > 0)
    .map((pen) => ({ uid: pen.id, low: valueAt(pen, low), high: valueAt(pen, high) }))
    .filter((ends) => ends.low < ends.high)
    .map((ends) => ({ ...ends, ...readableEnds(ends) }));
}

/** They do not change while only the cursor moves. */
const Charts = memo(function Charts({ charts }: { charts: readonly TimeChartProps[] }): ReactElement {
  return (
    <>
      {charts.map((chart) => (
        <TimeChart key={chart.contacts === undefined ? 'pens' : 'contacts'} {...chart} />
      ))}
    </>
  );
});

function endText({ end }: OwnWindow, span: Span, zone: string): string {
  if (end.kind === 'now') return common.untilNow;
  if (end.kind === 'moment') return fill(wording.untilMoment, { moment: momentText(span.endUs, zone) });
  return end.us === 0
    ? wording.untilTheEndOfTheSheet
    : fill(wording.untilLengthBeforeTheEndOf, { length: lengthText(end.us) });
}

/** The strip's title; a window of its own says which. */
function StripHead({ strip, span, zone }: { strip: Strip; span: Span; zone: string }): ReactElement {
  const { window } = strip;
  return (
    <Typography component="h2" noWrap variant="h3" sx={{ height: HEAD, lineHeight: `${HEAD}px`, px: 2 }}>
      {strip.title}
      {window !== null && (
        <Box
          component="span"
          data-testid="own-window"
          sx={{ fontWeight: 400, color: 'text.secondary', ml: 1 }}
        >
          {fill(wording.ownWindowLength, { length: lengthText(window.lengthUs) })}{' '}
          {endText(window, span, zone)}
        </Box>
      )}
    </Typography>
  );
}
