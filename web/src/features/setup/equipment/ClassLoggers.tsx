/** The loggers that each piece of a class has. */
import type { ReactElement } from 'react';
import { written } from '../../../domain/durations';
import { DataTable, type Column } from '../../../ui';
import type { ClassIn, Pattern } from './equipment';

const MODES: Record<string, string> = {
  periodic: 'periodic',
  on_change: 'on change',
  on_trigger: 'on a trigger',
  around: 'around a trigger',
};

const COLUMNS: Column<Pattern>[] = [
  { name: 'Logger', of: (row) => row.key, width: '30%' },
  { name: 'Records', of: (row) => MODES[String(row.settings['mode'])] ?? '' },
  {
    name: 'Every',
    of: (row) => everyText(row),
  },
  { name: 'Tags', of: (row) => ((row.settings['tags'] as unknown[] | undefined) ?? []).length, right: true },
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
      label="Loggers of the class"
      columns={COLUMNS}
      rows={draft.loggers}
      keyOf={(row) => row.key}
      selected={selected}
      onSelect={(row) => onSelect(row.key)}
      empty="The equipment of this class has no loggers of its own."
    />
  );
}
