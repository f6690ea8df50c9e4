/** The loggers that each piece of a class has. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { written } from '../../../domain/durations';
import { DataTable, type Column } from '../../../ui';
import type { ClassIn, Pattern } from './equipment';

const MODES: Record<string, string> = {
  periodic: common.periodic,
  on_change: common.onChange,
  on_trigger: wording.onATrigger,
  around: wording.aroundATrigger,
};

const COLUMNS: Column<Pattern>[] = [
  { name: common.logger, of: (row) => row.key, width: '30%' },
  { name: common.records, of: (row) => MODES[String(row.settings['mode'])] ?? '' },
  {
    name: common.every,
    of: (row) => everyText(row),
  },
  {
    name: common.tags,
    of: (row) => ((row.settings['tags'] as unknown[] | undefined) ?? []).length,
    right: true,
  },
];

/** The interval of a periodic one, in words. */
export function everyText({ settings }: Pattern): string {
  const intervalUs = Number(settings['interval_us'] ?? 0);
  return intervalUs === 0 ? '' : written(intervalUs);
}

interface ClassLoggersProps {
  draft: ClassIn;
  selected: string | null;
  onSelect: (key: string) => void;
}

export function ClassLoggers({ draft, selected, onSelect }: ClassLoggersProps): ReactElement {
  return (
    <DataTable
      label={wording.loggersOfTheClass}
      columns={COLUMNS}
      rows={draft.loggers}
      keyOf={(row) => row.key}
      selected={selected}
      onSelect={(row) => onSelect(row.key)}
      empty={wording.theEquipmentOfThisClassHas}
    />
  );
}
