/** Samples that came in of late, for who joins in following a tag that another one follows already. */
import { SECOND } from '../domain/time';
import type { LiveSamples } from './liveMessages';

/** A curve that is read when one joins is at most so old. */
const KEPT_US = 60 * SECOND;

interface Kept {
  /** From when on no sample is missing, µs; null: not known yet, after too much was missed. */
  sinceUs: number | null;
  parts: LiveSamples[];
}

export class Recent {
  private readonly kept = new Map<string, Kept>();

  /** Samples that came in. `since`: tags of which they are all there is from `sinceUs` on. */
  add(series: readonly LiveSamples[], since: readonly string[], sinceUs: number, knownUntilUs: number): void {
    for (const tag of since) this.kept.set(tag, { sinceUs, parts: [] });
    for (const part of series) this.kept.get(part.tag)?.parts.push(part);
    for (const one of this.kept.values()) prune(one, knownUntilUs);
  }

  /** Too much was missed: what is known begins with what comes next. */
  resync(): void {
    for (const one of this.kept.values()) Object.assign(one, { sinceUs: null, parts: [] });
  }

  /** Forgets all other tags. */
  keep(tags: ReadonlySet<string>): void {
    for (const tag of this.kept.keys()) if (!tags.has(tag)) this.kept.delete(tag);
  }

  /** What came in of these tags, and from when on nothing of any of them is missing; null: nothing is known of them. */
  of(tags: readonly string[]): { samples: LiveSamples[]; sinceUs: number } | null {
    const found = tags.flatMap((tag) => this.kept.get(tag) ?? []).filter((one) => one.sinceUs !== null);
    if (found.length === 0) return null;
    const sinceUs = Math.max(...found.map((one) => one.sinceUs ?? 0));
    return { samples: found.flatMap((one) => one.parts), sinceUs };
  }
}

function prune(one: Kept, knownUntilUs: number): void {
  one.sinceUs ??= knownUntilUs;
  const fromUs = knownUntilUs - KEPT_US;
  const first = one.parts.findIndex((part) => (part.t.at(-1) ?? 0) >= fromUs);
  if (first === 0 || one.parts.length === 0) return;
  one.parts.splice(0, first < 0 ? one.parts.length : first);
  one.sinceUs = Math.max(one.sinceUs, fromUs);
}
