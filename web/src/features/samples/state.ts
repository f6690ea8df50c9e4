/** What a table of samples shows, as it stands in the address. */
import { SECOND, durationText, parseDuration } from '../../domain/time';
import { lastOf, type WindowChoice } from '../../domain/windows';
import type { Wish } from '../../entities/samples/rows';

export interface SamplesState extends Wish {
  /** Each value has its quality beside it. */
  marks: boolean;
}

export const USUAL_WINDOW: WindowChoice = lastOf(3_600 * SECOND);
/** What the server takes. */
export const MOST_TAGS = 32;
export const LONGEST_STEP = 31 * 86_400 * SECOND;
const USUAL_STEP = 10 * SECOND;

export const LAYOUTS = ['time', 'grid', 'sample'] as const;
export const QUALITIES = ['any', 'good', 'uncertain', 'bad', 'not_good'] as const;
const BETWEEN = ['held', 'interpolated'] as const;
export const ORDERS = ['newest', 'largest', 'smallest'] as const;

function oneOf<T extends string>(values: readonly [T, ...T[]], text: string | null): T {
  return values.find((value) => value === text) ?? values[0];
}

/** What the address says; what it says wrongly is as if it was not there. */
export function readState(params: URLSearchParams): SamplesState {
  const step = parseDuration(params.get('step') ?? '');
  const layout = oneOf(LAYOUTS, params.get('rows'));
  return {
    tags: [...new Set((params.get('tags') ?? '').split(',').filter(Boolean))].slice(0, MOST_TAGS),
    layout,
    stepUs: step === null ? USUAL_STEP : Math.min(Math.max(step, SECOND / 1000), LONGEST_STEP),
    between: oneOf(BETWEEN, params.get('between')),
    // Only single samples have an order by value.
    order: layout === 'sample' ? oneOf(ORDERS, params.get('order')) : 'newest',
    value: (params.get('value') ?? '').slice(0, 100),
    quality: oneOf(QUALITIES, params.get('quality')),
    marks: params.get('marks') === 'yes',
  };
}

/** The same address with other choices; the usual ones are left out. */
export function withState(params: URLSearchParams, state: SamplesState): URLSearchParams {
  const next = new URLSearchParams(params);
  const put = (name: string, value: string, usual: string): void => {
    if (value === usual) next.delete(name);
    else next.set(name, value);
  };
  put('tags', state.tags.join(','), '');
  put('rows', state.layout, LAYOUTS[0]);
  put('step', durationText(state.stepUs), durationText(USUAL_STEP));
  put('between', state.between, BETWEEN[0]);
  put('order', state.order, ORDERS[0]);
  put('value', state.value, '');
  put('quality', state.quality, QUALITIES[0]);
  put('marks', state.marks ? 'yes' : '', '');
  return next;
}
