/** What a trend's page says of what it shows. */
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { GUTTER_AXIS, GUTTER_RIGHT } from '../../../chart';
import { valueText } from '../../../domain/format';
import { lengthText, momentText, type Span } from '../../../domain/time';
import { goesOn, windowName } from '../../../domain/windows';
import { blankAt, type Blank, type Trace } from './model';
import type { PenCard } from '../drawer/PenCards';
import type { Legend } from '../plot/picture';
import type { TrendState } from './state';
import type { TrendStatus } from '../page/TrendView';
import type { LiveSnapshot } from '../data/useLive';

export function legendOf({ trace, colour, scale, value }: PenCard): Legend {
  return {
    number: trace.number,
    name: trace.tag.name,
    colour,
    scale:
      scale === null
        ? ''
        : fill(wording.lowToHighUnit, { low: scale.low, high: scale.high, unit: trace.tag.unit }),
    value: `${valueText(value, trace.tag.decimals)} ${trace.tag.unit}`,
  };
}

/** A pen as its card names it: its number where it has one, and its name. */
export function penName({ number, name }: Pick<Trace, 'number' | 'name'>): string {
  return number > 0 ? `${number} ${name}` : name;
}

/** The window moved to where the first of the pens begins. */
export function toFirst(known: readonly Trace[], span: Span): [number, number] {
  const begun = known.map((trace) => trace.recordedSinceUs).filter((us) => us > 0);
  const startUs = begun.length === 0 ? span.startUs : Math.min(...begun);
  return [startUs, startUs + span.endUs - span.startUs];
}

/** The newest samples that came in of a tag, in each archive. */
function endsOf(tails: LiveSnapshot['tails'], uid: string): number[] {
  return [...tails.values()].filter((tail) => tail.tag === uid).map((tail) => tail.t.at(-1) ?? 0);
}

/** The window moved to where the last of the pens ends; what came in meanwhile counts. */
export function toLast(known: readonly Trace[], span: Span, tails: LiveSnapshot['tails']): [number, number] {
  const last = known
    .map(({ tag, lastUs }) => Math.max(lastUs, ...endsOf(tails, tag.uid)))
    .filter((us) => us > 0);
  const endUs = last.length === 0 ? span.endUs : Math.max(...last) + (span.endUs - span.startUs) / 50;
  return [endUs - (span.endUs - span.startUs), endUs];
}

/** What is drawn beside the pens, and when a live window moves. */
export function besideOf(state: TrendState, names: ReadonlyMap<string, string>, zone: string): string {
  const { ghostUs, refresh, window } = state;
  const words = ghostUs === 0 ? [] : [fill(wording.paleLengthBefore, { length: lengthText(ghostUs) })];
  if (refresh !== null && goesOn(window)) {
    const trigger = 'tag' in refresh ? (names.get(refresh.tag) ?? wording.itsTrigger) : '';
    words.push(
      'everyUs' in refresh
        ? fill(wording.movesEveryLength, { length: lengthText(refresh.everyUs) })
        : fill(refresh.edge === 'level' ? wording.movesWhileTriggerIsTrue : wording.movesWhenTriggerFires, {
            trigger,
          }),
    );
  }
  if (state.allow !== null) {
    words.push('read-only');
    if (!state.allow.includes('time')) words.push(windowText(window, zone));
  }
  return words.join(' · ');
}

/** A window in words, where no rail shows it. */
function windowText(window: TrendState['window'], zone: string): string {
  if (window.kind === 'fixed')
    return fill(common.momentToMoment, {
      moment: momentText(window.startUs, zone),
      moment2: momentText(window.endUs, zone),
    });
  return window.kind === 'since'
    ? fill(wording.momentUntilNow, { moment: momentText(window.startUs, zone) })
    : fill(wording.liveWindow, { window: windowName(window) });
}

/** Room for an axis at the right when a pen has its scale there. */
export function gutterFor(looks: TrendState['looks'], uids: readonly string[]): number {
  return uids.some((uid) => looks[uid]?.axis === 'right') ? GUTTER_AXIS : GUTTER_RIGHT;
}

/** Which of the pens have nothing at a moment, and why. */
export function blanksAt(pens: readonly { trace: Trace }[], atUs: number): { name: string; blank: Blank }[] {
  return pens.flatMap(({ trace }) => {
    const blank = blankAt(trace, atUs);
    return blank === null ? [] : [{ name: trace.name, blank }];
  });
}

export function statusOf(count: number, failed: boolean, choosing: boolean, reading: boolean): TrendStatus {
  if (failed) return 'error';
  if (count === 0) return choosing ? 'loading' : 'empty';
  return reading ? 'loading' : 'ready';
}

export function noticeOf(live: LiveSnapshot, healthFailed: boolean): string {
  const { link, databaseUp, refusal } = live;
  if (link === 'refused') return fill(wording.nothingNewIsShownTheServer, { refusal });
  if (link === 'lost') return wording.theConnectionToTheServerIs;
  if (!databaseUp) return wording.theDatabaseDoesNotAnswerRecording;
  if (refusal !== '') return fill(wording.nothingNewIsShownOfSome, { refusal });
  return healthFailed ? common.theServerDoesNotAnswer : '';
}

export function titleOf(known: readonly Trace[]): string {
  const lines = [...new Set(known.map((trace) => trace.tag.equipment.split('/')[0] ?? ''))].filter(Boolean);
  return lines.length === 1 ? fill(wording.valueTrend, { value: lines[0] ?? '' }) : common.trend;
}
