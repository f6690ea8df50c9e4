/** The same trend for other equipment: its pens in the same order, each looking as the one it stands for. */
import { equipmentOf } from '../../../domain/equipment';
import { exchangedPens } from './layout';
import { exchanged } from './looks';
import type { Trace } from './model';
import type { TrendState } from './state';

/** The equipment that all pens belong to, or nothing. */
export function commonEquipment(traces: readonly Trace[]): string {
  const found = new Set(traces.map(({ tag }) => equipmentOf(tag)));
  return found.size === 1 ? ([...found][0] ?? '') : '';
}

/** What a trend of these pens becomes, by tag of the other equipment; `names` of the equipment before and then. */
export function sisterOf(
  now: TrendState,
  uids: readonly string[],
  others: ReadonlyMap<string, string>,
  names?: readonly [string, string],
): Partial<TrendState> {
  const sisters = (before: readonly string[]): string[] => before.flatMap((uid) => others.get(uid) ?? []);
  const [selected] = sisters(now.selected === null ? [] : [now.selected]);
  return {
    tags: sisters(uids),
    hidden: sisters(now.hidden),
    selected: selected ?? null,
    looks: exchanged(now.looks, others, names),
    strips: exchangedPens(now.strips, others),
    // It is another trend now: the sheet that was opened is that of the equipment before.
    sheet: null,
  };
}
