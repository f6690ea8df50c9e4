import * as common from 'texts/common.json';

/** What a value shows as: never more digits than the tag has decimals; a missing one is a dash. */
export type Scalar = number | boolean | string | null;

export function valueText(value: Scalar | undefined, decimals: number): string {
  if (value === null || value === undefined) return '–';
  if (typeof value === 'boolean') return value ? common.on : common.off;
  if (typeof value === 'string') return value;
  return value.toFixed(decimals);
}

/** Round steps for an axis: 1, 2 or 5 times a power of ten, at most `most` of them. */
export function niceStep(span: number, most: number): number {
  const rough = span / Math.max(most, 1);
  const power = 10 ** Math.floor(Math.log10(rough));
  const factor = [1, 2, 5, 10].find((f) => f * power >= rough * 0.999) ?? 10;
  return factor * power;
}

/** The nice ticks inside [low, high]. */
export function niceTicks(low: number, high: number, most: number): number[] {
  const step = niceStep(high - low, most);
  const first = Math.ceil(low / step - 1e-9);
  const last = Math.floor(high / step + 1e-9);
  return Array.from({ length: Math.max(last - first + 1, 0) }, (_, i) => (first + i) * step);
}

/** Ticks of a logarithmic scale inside [low, high], low > 0: 1, 2 and 5 of each decade, or decades alone, as many
    as find a place; of less than a decade plain ones. */
export function logTicks(low: number, high: number, most: number): number[] {
  if (high < 10 * low) return niceTicks(low, high, most);
  const decades = Array.from(
    { length: Math.ceil(Math.log10(high)) - Math.floor(Math.log10(low)) + 1 },
    (_, i) => 10 ** (Math.floor(Math.log10(low)) + i),
  );
  const inside = (factors: readonly number[]): number[] =>
    decades
      .flatMap((decade) => factors.map((factor) => factor * decade))
      .filter((value) => value >= low * 0.999 && value <= high * 1.001);
  const fine = inside([1, 2, 5]);
  return fine.length <= most ? fine : inside([1]);
}

/** Text of an axis tick: as many decimals as its step needs. */
export function tickText(value: number, step: number): string {
  return value.toFixed(Math.max(0, -Math.floor(Math.log10(step) + 1e-9)));
}
