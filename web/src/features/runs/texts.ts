/** Runs in words. */
import * as wording from 'texts/runs.json';
import { isoText, lengthText } from '../../domain/time';
import type { Run, RunAttribute } from '../../entities/runs';

/** A value as its tag shows it; what was Bad says so. */
export function attributeText(attribute: RunAttribute): string {
  if (attribute.value === null) return wording.bad;
  const value =
    typeof attribute.value === 'number'
      ? attribute.value.toFixed(attribute.decimals)
      : String(attribute.value);
  return attribute.unit === '' ? value : `${value} ${attribute.unit}`;
}

/** How long a run took, or has lasted until now. */
export function runLength(run: Run, nowUs: number): string {
  const end = run.end_us === null ? nowUs : Number(run.end_us);
  return lengthText(Math.max(0, end - Number(run.start_us)));
}

/** The trend of the tags it has attributes of, over the very stretch of the run. */
export function trendLink(run: Run, nowUs: number): string {
  const end = run.end_us === null ? nowUs : Number(run.end_us);
  const params = new URLSearchParams({
    from: isoText(Number(run.start_us)),
    to: isoText(Math.max(end, Number(run.start_us) + 1_000_000)),
  });
  const tags = [
    ...new Set([...run.start_attributes, ...run.end_attributes].map((attribute) => attribute.tag)),
  ];
  if (tags.length > 0) params.set('tags', tags.join(','));
  return `/trends?${params.toString()}`;
}

/** The attributes of both ends beside each other, in the order of the start. */
export function attributeRows(run: Run): { name: string; start: string; end: string }[] {
  const ends = new Map(run.end_attributes.map((attribute) => [attribute.tag, attribute]));
  return run.start_attributes.map((attribute) => {
    const end = ends.get(attribute.tag);
    return {
      name: attribute.name,
      start: attributeText(attribute),
      end: end === undefined ? '' : attributeText(end),
    };
  });
}
