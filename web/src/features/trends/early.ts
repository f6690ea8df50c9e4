/** What a trend will ask for is asked for while the program that draws it is still on its way. */
import { begin } from '../../platform/request';
import { beginCurves } from '../../entities/curves';
import { GUTTER_AXIS, GUTTER_LEFT, GUTTER_RIGHT } from '../../chart/strip';
import { archivesOf, besidePens } from './model/looks';
import { isNamed, spanAt } from '../../domain/windows';
import { namedWindowPath } from '../../entities/namedWindow';
import { readDocument } from './model/document';
import { parseState, triggerOf } from './model/state';

interface SheetView {
  uid: string;
  view: string;
}

let begunUs: number | null = null;

/** The moment that the first window ends with: what was asked for early is of that window. */
export function takeBegunUs(): number {
  const found = begunUs ?? Date.now() * 1000;
  begunUs = null;
  return found;
}

/** Begins what the trend of this address needs, drawn on a page so many CSS pixels wide. A guess that proves
 * wrong costs a request: the page asks again. */
export async function beginTrend(search: string, pageWidth: number): Promise<void> {
  void begin('/api/plant');
  const params = new URLSearchParams(search);
  const state = params.has('tags') ? parseState(params) : readDocument(await viewOf(params.get('sheet')));
  const pens = (state.tags ?? []).filter((uid) => state.made[uid] === undefined);
  if (pens.length === 0) return;
  const tags = [...pens, ...besidePens(state.looks, state.tags ?? [], triggerOf(state.refresh))];
  void begin(`/api/tags?${tags.map((uid) => `uid=${uid}`).join('&')}`);
  begunUs = Date.now() * 1000;
  const span = spanAt(state.window, begunUs, null);
  if (span === null) {
    // The curves wait for what the calendar says.
    if (isNamed(state.window)) void begin(namedWindowPath(state.window));
    return;
  }
  const onRight = pens.some((uid) => state.looks[uid]?.axis === 'right');
  const width = plotPlace(pageWidth) - GUTTER_LEFT - (onRight ? GUTTER_AXIS : GUTTER_RIGHT);
  beginCurves({ tags, archives: archivesOf(state.looks, tags), ...span, width });
}

/** The view of a sheet, or nothing: also where there is no answer, which the page tells itself. */
async function viewOf(sheet: string | null): Promise<string> {
  if (sheet === null) return '';
  try {
    const answer = await begin('/api/sheets');
    const sheets = (await answer.clone().json()) as SheetView[];
    return sheets.find((one) => one.uid === sheet)?.view ?? '';
  } catch {
    return '';
  }
}

const WIDE_PX = 900;
const DRAWER_PX = 300;

/** How wide the plot's place is: the drawer lies beside it where there is room. */
function plotPlace(pageWidth: number): number {
  return pageWidth >= WIDE_PX ? pageWidth - DRAWER_PX : pageWidth;
}
