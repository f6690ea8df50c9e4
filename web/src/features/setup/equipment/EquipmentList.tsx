/** The pieces of a class, with what is their own and the ways to their curves and figures. */
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { DataTable, type Column } from '../../../ui';
import { ownWords, type EquipmentClass, type Equipment } from './equipment';
import { sourcesQuery } from '../../../entities/sources';

interface EquipmentListProps {
  equipment: readonly Equipment[];
  equipmentClass: EquipmentClass;
  selected: string | null;
  onSelect: (uid: string) => void;
}

export function EquipmentList({
  equipment,
  equipmentClass,
  selected,
  onSelect,
}: EquipmentListProps): ReactElement {
  const { data: sources = [] } = useQuery(sourcesQuery);
  const nameOf = (uid: string): string =>
    sources.find((one) => one.uid === uid)?.name ?? 'a source that is gone';
  const statistics = `/statistics?kind=${encodeURIComponent(equipmentClass.name)}`;
  const columns: Column<Equipment>[] = [
    { name: 'Name', of: (row) => row.name, width: '20%' },
    { name: 'Sources', of: (row) => [...new Set(Object.values(row.sources).map(nameOf))].join(', ') },
    { name: 'Overrides', of: (row) => ownWords(row).slice(0, 3).join('; ') },
    {
      name: 'Look',
      of: (row) => (
        <>
          <Button
            size="small"
            color="inherit"
            sx={{ textDecoration: 'underline' }}
            component={Link}
            to={`/trends?${row.trend}`}
            onClick={(event) => event.stopPropagation()}
            aria-label={`Trend of ${row.name}`}
          >
            Trend
          </Button>
          <Button
            size="small"
            color="inherit"
            sx={{ textDecoration: 'underline' }}
            component={Link}
            to={statistics}
            onClick={(event) => event.stopPropagation()}
            aria-label={`Statistics of ${row.name} beside its like`}
          >
            Statistics
          </Button>
        </>
      ),
    },
  ];
  return (
    <DataTable
      label="Equipment of the class"
      columns={columns}
      rows={equipment}
      keyOf={(row) => row.uid}
      selected={selected}
      onSelect={(row) => onSelect(row.uid)}
      empty="There is no equipment of this class yet."
    />
  );
}
