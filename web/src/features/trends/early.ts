/** What a trend will ask for is asked for while the program that draws it is still on its way. */
import { begin } from '../../platform/request';
import type { Tag } from '../../platform/client';
import { beginCurves } from '../../entities/curves';
import { DEFAULT_TAGS_PATH, defaultTags } from '../../entities/defaultTags';
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
  const endUs = Date.now() * 1000;
  begunUs = endUs;
  const params = new URLSearchParams(search);
  const state = params.has('tags') ? parseState(params) : readDocument(await viewOf(params.get('sheet')));
  const chosen = state.tags ?? (await beginsWith());
  const pens = chosen.filter((uid) => state.made[uid] === undefined);
  if (pens.length === 0) return;
  const tags = [...pens, ...besidePens(state.looks, chosen, triggerOf(state.refresh))];
  void begin(`/api/tags?${tags.map((uid) => `uid=${uid}`).join('&')}`);
  const span = spanAt(state.window, endUs, null);
  if (span === null) {
    // The curves wait for what the calendar says.
    if (isNamed(state.window)) void begin(namedWindowPath(state.window));
    return;
  }
  const onRight = pens.some((uid) => state.looks[uid]?.axis === 'right');
  const width = plotPlace(pageWidth) - GUTTER_LEFT - (onRight ? GUTTER_AXIS : GUTTER_RIGHT);
  beginCurves({ tags, archives: archivesOf(state.looks, tags), ...span, width });
}

/** The view of a sheet, or nothing. */
async function viewOf(sheet: string | null): Promise<string> {
  if (sheet === null) return '';
  const sheets = (await beginJson('/api/sheets')) as SheetView[] | null;
  return sheets?.find((one) => one.uid === sheet)?.view ?? '';
}

/** The tags that a trend begins with when none were chosen. */
async function beginsWith(): Promise<string[]> {
  const page = (await beginJson(DEFAULT_TAGS_PATH)) as { tags?: Tag[] } | null;
  return defaultTags(page?.tags ?? []);
}

/** What is answered; null where nothing is, which the page tells itself. */
async function beginJson(path: string): Promise<unknown> {
  try {
    return await (await begin(path)).clone().json();
  } catch {
    return null;
  }
}

const WIDE_PX = 900;
const DRAWER_PX = 300;

/** How wide the plot's place is: the drawer lies beside it where there is room. */
function plotPlace(pageWidth: number): number {
  return pageWidth >= WIDE_PX ? pageWidth - DRAWER_PX : pageWidth;
}
