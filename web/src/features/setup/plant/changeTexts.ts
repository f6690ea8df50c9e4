/** Changes of the set-up in words. */
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-plant.json';
import { fill } from '../../../domain/fill';
import type { Change, Step } from '../../../entities/setup';

const KIND_WORDS: Readonly<Record<string, readonly [string, string]>> = {
  source: [common.aSource, wording.sources],
  tag: [wording.tag, wording.tags],
  logger: [common.aLogger, wording.loggers],
  archive: [wording.archive, wording.archives],
  run: [wording.ruleOfRuns, wording.rulesOfRuns],
  equipment_class: [wording.equipmentClass, wording.equipmentClasses],
  equipment: ['equipment', 'equipment'],
  plant: [wording.thePlant, wording.thePlant],
};

/** The kinds to choose among, with the name of many of each. */
export const KINDS = [
  { value: '', label: wording.everything },
  ...Object.entries(KIND_WORDS).map(([value, [, many]]) => ({ value, label: many })),
];

/** Such as: 120 tags changed, logger changed. */
export function stepText({ parts }: Pick<Step, 'parts'>): string {
  return parts
    .map(({ kind, action, count }) => {
      const [one, many] = KIND_WORDS[kind] ?? [kind.replaceAll('_', ' '), `${kind.replaceAll('_', ' ')}s`];
      return count === 1 ? `${one} ${action}` : `${count} ${many} ${action}`;
    })
    .join(', ');
}

export function countOf({ parts }: Pick<Step, 'parts'>): number {
  return parts.reduce((sum, part) => sum + part.count, 0);
}

export interface FieldChange {
  name: string;
  before: unknown;
  after: unknown;
}

/** The fields that differ; none where an object came or went. */
export function fieldChanges({ before, after }: Pick<Change, 'before' | 'after'>): FieldChange[] {
  if (before == null || after == null) return [];
  return Object.keys({ ...before, ...after })
    .filter((name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]))
    .map((name) => ({ name, before: before[name], after: after[name] }));
}

const MOST_ITEMS = 12;

export function shown(value: unknown): string {
  if (value === undefined || value === null || value === '') return common.nothing;
  if (Array.isArray(value)) {
    return value.length > MOST_ITEMS
      ? fill(wording.countEntries, { count: value.length })
      : value.map(shown).join(', ') || common.nothing;
  }
  if (typeof value === 'object') {
    const parts = Object.entries(value).map(([name, one]) => `${name.replaceAll('_', ' ')} ${shown(one)}`);
    return parts.join(', ') || common.nothing;
  }
  return typeof value === 'string' ? value : JSON.stringify(value);
}

const MOST_TOLD = 3;

/** Such as: unit °C → K. */
export function changesText(change: Pick<Change, 'before' | 'after'>): string {
  const fields = fieldChanges(change);
  const told = fields
    .slice(0, MOST_TOLD)
    .map(({ name, before, after }) => `${name.replaceAll('_', ' ')} ${shown(before)} → ${shown(after)}`);
  const more = fields.length - told.length;
  return [...told, ...(more > 0 ? [fill(wording.moreMore, { more })] : [])].join('; ');
}
