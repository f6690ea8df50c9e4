/** Runs in words. */
import { isoText, lengthText } from '../../shared/lib/time';
import type { Run, RunFact } from './queries';

/** A value as its tag shows it; what was Bad says so. */
export function factText(fact: RunFact): string {
  if (fact.value === null) return 'Bad';
  const value = typeof fact.value === 'number' ? fact.value.toFixed(fact.decimals) : String(fact.value);
  return fact.unit === '' ? value : `${value} ${fact.unit}`;
}

/** How long a run took, or has lasted until now. */
export function runLength(run: Run, nowUs: number): string {
  const end = run.end_us === null ? nowUs : Number(run.end_us);
  return lengthText(Math.max(0, end - Number(run.start_us)));
}

/** The trend of the tags it has facts of, over the very stretch of the run. */
export function trendLink(run: Run, nowUs: number): string {
  const end = run.end_us === null ? nowUs : Number(run.end_us);
  const params = new URLSearchParams({
    from: isoText(Number(run.start_us)),
    to: isoText(Math.max(end, Number(run.start_us) + 1_000_000)),
  });
  const tags = [...new Set([...run.start_facts, ...run.end_facts].map((fact) => fact.tag))];
  if (tags.length > 0) params.set('tags', tags.join(','));
  return `/trends?${params.toString()}`;
}

/** The facts of both ends beside each other, in the order of the start. */
export function factRows(run: Run): { name: string; start: string; end: string }[] {
  const ends = new Map(run.end_facts.map((fact) => [fact.tag, fact]));
  return run.start_facts.map((fact) => {
    const end = ends.get(fact.tag);
    return { name: fact.name, start: factText(fact), end: end === undefined ? '' : factText(end) };
  });
}
