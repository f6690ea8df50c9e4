/** The tags that each piece of a class has. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
import { DataTable, type Column } from '../../../ui';
import { settingText, limitsText, ownCount, type ClassIn, type Member, type Equipment } from './equipment';

interface ClassMembersProps {
  draft: ClassIn;
  equipment: readonly Equipment[];
  selected: string | null;
  onSelect: (key: string) => void;
}

export function ClassMembers({ draft, equipment, selected, onSelect }: ClassMembersProps): ReactElement {
  const columns: Column<Member>[] = [
    { name: common.tag, of: (row) => row.key, width: '30%' },
    { name: common.value, of: (row) => settingText(row, 'value_type') },
    { name: common.unit, of: (row) => settingText(row, 'unit') },
    {
      name: common.range,
      of: (row) =>
        isNumber(row)
          ? fill(wording.settingToSetting, {
              setting: settingText(row, 'range_low'),
              setting2: settingText(row, 'range_high'),
            })
          : '',
      right: true,
    },
    { name: wording.limits, of: limitsText, right: true },
    { name: wording.readFrom, of: (row) => row.slot },
    { name: wording.shownOn, of: (row) => lookedAt(draft, row.key) },
    { name: wording.own, of: (row) => ownCount(equipment, row.key) || '', right: true },
  ];
  return (
    <DataTable
      label={wording.tagsOfTheClass}
      columns={columns}
      rows={draft.members}
      keyOf={(row) => row.key}
      selected={selected}
      onSelect={(row) => onSelect(row.key)}
      empty={wording.theClassHasNoTagsYet}
    />
  );
}

export function isNumber({ settings }: Pick<Member, 'settings'>): boolean {
  return ['float', 'integer'].includes(settingText({ settings }, 'value_type'));
}

function lookedAt({ trend, card }: ClassIn, key: string): string {
  const figures = card.filter((one) => one.member === key).length;
  return [trend.includes(key) ? 'trend' : '', figures === 0 ? '' : fill(wording.cardFigures, { figures })]
    .filter(Boolean)
    .join(', ');
}
