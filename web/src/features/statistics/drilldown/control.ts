/** A control chart as pens: its points, its limits, its centre; and what is to be said of it. */
import * as wording from 'texts/statistics.json';
import type { components } from '../../../platform/schema';
import type { Columns, Pen } from '../../../chart';
import type { Tokens } from '../../../ui/tokens';

export type Control = components['schemas']['ControlOut'];
export type Chart = components['schemas']['ChartOut'];

/** Points over the middle of their stretches; limits over all of them. */
export function chartPens(chart: Chart, startsUs: readonly number[], endUs: number, tokens: Tokens): Pen[] {
  const middles = startsUs.map((us, i) => (us + (startsUs[i + 1] ?? endUs)) / 2);
  const known = chart.points.flatMap((value, i) => (value === null ? [] : [i]));
  const { low, high } = scaleOf(chart);
  const pen = (id: string, columns: Columns, more: Partial<Pen>): Pen => ({
    id,
    columns,
    low,
    high,
    number: 0,
    colour: tokens.ink,
    stepped: false,
    heldUntilUs: 0,
    log: false,
    label: '',
    dimmed: false,
    alpha: 1,
    dash: false,
    axis: 'left',
    width: 1.4,
    draw: 'line',
    guide: false,
    lines: [],
    gaps: [],
    states: {},
    ...more,
  });
  const broken = known.filter((i) => (chart.broken[i]?.length ?? 0) > 0);
  const points = (places: readonly number[]): Columns =>
    columns(
      places.map((i) => middles[i] ?? 0),
      places.map((i) => chart.points[i] ?? NaN),
    );
  const limit = (values: readonly number[]): Columns => columns([...startsUs], [...values]);
  return [
    pen('upper', limit(chart.upper), {
      guide: true,
      colour: tokens.alert,
      stepped: true,
      heldUntilUs: endUs,
    }),
    pen('lower', limit(chart.lower), {
      guide: true,
      colour: tokens.alert,
      stepped: true,
      heldUntilUs: endUs,
    }),
    pen('centre', limit(chart.points.map(() => chart.centre)), {
      guide: true,
      stepped: true,
      colour: tokens.quiet,
      heldUntilUs: endUs,
    }),
    pen('points', points(known), {}),
    pen('each', points(known), { draw: 'points', width: 3 }),
    pen('broken', points(broken), { draw: 'points', width: 7, colour: tokens.alert }),
  ];
}

function scaleOf(chart: Chart): { low: number; high: number } {
  const values = [...chart.points.filter((value) => value !== null), ...chart.lower, ...chart.upper];
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const margin = (high - low) * 0.08 || Math.abs(high) * 0.05 || 1;
  return { low: low - margin, high: high + margin };
}

function columns(times: readonly number[], values: readonly number[]): Columns {
  return {
    t: Float64Array.from(times),
    v: Float64Array.from(values),
    q: new Uint16Array(times.length),
  };
}

/** A point that breaks rules, and what they say. */
export interface Broken {
  chart: string;
  atUs: number;
  words: string;
}

export function brokenOf(found: Control): Broken[] {
  const words = new Map(found.rules.map((rule) => [rule.number, rule.words]));
  return found.charts.flatMap((chart) =>
    chart.broken.flatMap((numbers, i) => {
      if (numbers.length === 0) return [];
      const said = numbers.map((number) =>
        number === 1 ? wording.beyondItsLimit : (words.get(number) ?? String(number)),
      );
      return [{ chart: chart.name, atUs: Number(found.starts_us[i] ?? 0), words: said.join('; ') }];
    }),
  );
}
