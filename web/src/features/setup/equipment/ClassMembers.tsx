/** The tags that each piece of a class has. */
import type { ReactElement } from 'react';
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
    { name: 'Tag', of: (row) => row.key, width: '30%' },
    { name: 'Value', of: (row) => settingText(row, 'value_type') },
    { name: 'Unit', of: (row) => settingText(row, 'unit') },
    {
      name: 'Range',
      of: (row) =>
        isNumber(row) ? `${settingText(row, 'range_low')} to ${settingText(row, 'range_high')}` : '',
      right: true,
    },
    { name: 'Limits', of: limitsText, right: true },
    { name: 'Read from', of: (row) => row.slot },
    { name: 'Looked at', of: (row) => lookedAt(draft, row.key) },
    { name: 'Own', of: (row) => ownCount(equipment, row.key) || '', right: true },
  ];
  return (
    <DataTable
      label="Tags of the class"
      columns={columns}
      rows={draft.members}
      keyOf={(row) => row.key}
      selected={selected}
      onSelect={(row) => onSelect(row.key)}
      empty="The class has no tags yet."
    />
  );
}

export function isNumber({ settings }: Pick<Member, 'settings'>): boolean {
  return ['float', 'integer'].includes(settingText({ settings }, 'value_type'));
}

function lookedAt({ trend, card }: ClassIn, key: string): string {
  const figures = card.filter((one) => one.member === key).length;
  return [trend.includes(key) ? 'trend' : '', figures === 0 ? '' : `card ${figures}`]
    .filter(Boolean)
    .join(', ');
}
