/** An equipment class as it is edited: changed members of a draft, what the lists say. */
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import type { components } from '../../../platform/schema';

type Schemas = components['schemas'];
export type EquipmentClass = Schemas['ClassOut'];
export type ClassIn = Schemas['ClassIn'];
export type Member = Schemas['MemberModel'];
export type Pattern = Schemas['PatternModel'];
export type Equipment = Schemas['EquipmentOfClassOut'];
export type EquipmentIn = Schemas['EquipmentIn'];
export type Plan = Schemas['PlanOut'];

/** The class as it would be saved. */
export function asDraft(one: EquipmentClass): ClassIn {
  const { name, members, slots, parameters, loggers, runs, joins, trend, card, revision } = one;
  return { name, members, slots, parameters, loggers, runs, joins, trend, card, revision };
}

/** What of a class can be changed; its revision is not. */
export function classForm(one: EquipmentClass | null): ClassIn {
  const { name, members, slots, parameters, loggers, runs, joins, trend, card } = one as EquipmentClass;
  return { name, members, slots, parameters, loggers, runs, joins, trend, card, revision: 0 };
}

export function withMember(draft: ClassIn, key: string, change: Partial<Member>): ClassIn {
  return {
    ...draft,
    members: draft.members.map((one) => (one.key === key ? { ...one, ...change } : one)),
  };
}

export function withSettings(draft: ClassIn, key: string, settings: Record<string, unknown>): ClassIn {
  const member = draft.members.find((one) => one.key === key);
  return member === undefined
    ? draft
    : withMember(draft, key, { settings: { ...member.settings, ...settings } });
}

/** Without a member, and without what names it in lists; patterns that need it are refused by the server. */
export function withoutMember(draft: ClassIn, key: string): ClassIn {
  const tag = `{tag:${key}}`;
  const plain = (settings: Record<string, unknown>): Record<string, unknown> =>
    Object.fromEntries(
      Object.entries(settings).map(([name, value]) => [
        name,
        Array.isArray(value) ? value.filter((item) => item !== tag) : value,
      ]),
    );
  return {
    ...draft,
    members: draft.members.filter((one) => one.key !== key),
    loggers: draft.loggers.map((one) => ({ ...one, settings: plain(one.settings) })),
    runs: draft.runs.map((one) => ({ ...one, settings: plain(one.settings) })),
    joins: draft.joins.map((one) => ({ ...one, members: one.members.filter((name) => name !== key) })),
    trend: draft.trend.filter((name) => name !== key),
    card: draft.card.filter((one) => one.member !== key),
  };
}

/** A new member, recorded by the class's loggers with these keys. */
export function withNewMember(draft: ClassIn, member: Member, loggers: readonly string[]): ClassIn {
  const tag = `{tag:${member.key}}`;
  return {
    ...draft,
    members: [...draft.members, member],
    loggers: draft.loggers.map((one) =>
      loggers.includes(one.key)
        ? {
            ...one,
            settings: {
              ...one.settings,
              tags: [...((one.settings['tags'] as string[] | undefined) ?? []), tag],
            },
          }
        : one,
    ),
  };
}

export function withLogger(draft: ClassIn, key: string, settings: Record<string, unknown>): ClassIn {
  return {
    ...draft,
    loggers: draft.loggers.map((one) =>
      one.key === key ? { ...one, settings: { ...one.settings, ...settings } } : one,
    ),
  };
}

/** A name in a list or out of it. */
export function toggled(list: readonly string[], name: string): string[] {
  return list.includes(name) ? list.filter((one) => one !== name) : [...list, name];
}

export function limitsText({ limits }: Pick<Member, 'limits'>): string {
  const [low, high] = limits;
  if (low == null && high == null) return '';
  if (low == null) return fill(wording.upToHigh, { high: high ?? '' });
  return high == null ? fill(wording.fromLow, { low }) : fill(common.lowToHigh, { low, high });
}

/** A setting of a pattern as text; nothing where there is none. */
export function settingText({ settings }: Pick<Member, 'settings'>, name: string): string {
  const value = settings[name];
  return typeof value === 'string' || typeof value === 'number' ? String(value) : '';
}

/** How many pieces have something of their own for a member. */
export function ownCount(equipment: readonly Equipment[], key: string): number {
  return equipment.filter((one) => one.overrides['tags']?.[key] !== undefined).length;
}

/** What a piece has otherwise than its class says, in words. */
export function ownWords({ overrides, without }: Pick<Equipment, 'overrides' | 'without'>): string[] {
  const own = Object.values(overrides).flatMap((objects) =>
    Object.entries(objects).flatMap(([key, settings]) =>
      Object.entries(settings).map(
        ([name, value]) => `${key}: ${name.replaceAll('_', ' ')} ${shownValue(value)}`,
      ),
    ),
  );
  return [...own, ...without.map((key) => fill(wording.noKey, { key }))];
}

export function shownValue(value: unknown): string {
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  return text.length > 120 ? `${text.slice(0, 120)} …` : text;
}

/** What becomes different in how the class is looked at, in words. */
export function looksWords(before: ClassIn, after: ClassIn): string[] {
  const limits = after.members.flatMap((member) => {
    const old = before.members.find((one) => one.key === member.key);
    const [was, is] = [old === undefined ? '' : limitsText(old), limitsText(member)];
    return was === is
      ? []
      : [
          fill(wording.limitsOfKey, {
            key: member.key,
            was: was === '' ? common.none : was,
            is: is === '' ? common.none : is,
          }),
        ];
  });
  const differs = (part: 'trend' | 'card' | 'name'): boolean =>
    JSON.stringify(before[part]) !== JSON.stringify(after[part]);
  return [
    ...limits,
    ...(differs('name') ? [fill(wording.nameBecame, { name: before.name, name2: after.name })] : []),
    ...(differs('trend') ? [wording.theTrendSheetHasOtherTags] : []),
    ...(differs('card') ? [wording.theStatisticsCardHasOtherFigures] : []),
  ];
}

/** What a plan comes to, in a sentence. */
export function planWords(plan: Plan): string {
  const changed = plan.equipment.filter((one) => one.differences.length + one.removed.length > 0).length;
  if (changed === 0) return wording.noTagLoggerOrRuleOf;
  const objects = plan.equipment.reduce((sum, one) => sum + one.differences.length, 0);
  const removed = plan.equipment.reduce((sum, one) => sum + one.removed.length, 0);
  const parts = [
    objects === 0 ? '' : fill(wording.objectsObjectsAddedOrChanged, { objects }),
    removed === 0 ? '' : fill(wording.removedRemovedTheirHistoryStays, { removed }),
  ].filter(Boolean);
  return fill(wording.partsInChangedEquipmentItems, { parts: parts.join(', '), changed });
}
