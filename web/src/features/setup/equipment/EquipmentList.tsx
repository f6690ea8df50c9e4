/** The pieces of a class, with what is their own and the ways to their curves and figures. */
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-equipment.json';
import { fill } from '../../../domain/fill';
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
    sources.find((one) => one.uid === uid)?.name ?? wording.aSourceThatIsGone;
  const statistics = `/statistics?kind=${encodeURIComponent(equipmentClass.name)}`;
  const columns: Column<Equipment>[] = [
    { name: common.name, of: (row) => row.name, width: '20%' },
    { name: common.sources, of: (row) => [...new Set(Object.values(row.sources).map(nameOf))].join(', ') },
    { name: wording.overrides, of: (row) => ownWords(row).slice(0, 3).join('; ') },
    {
      name: common.show,
      of: (row) => (
        <>
          <Button
            size="small"
            color="inherit"
            sx={{ textDecoration: 'underline' }}
            component={Link}
            to={`/trends?${row.trend}`}
            onClick={(event) => event.stopPropagation()}
            aria-label={fill(wording.trendOfName, { name: row.name })}
          >
            {common.trend}
          </Button>
          <Button
            size="small"
            color="inherit"
            sx={{ textDecoration: 'underline' }}
            component={Link}
            to={statistics}
            onClick={(event) => event.stopPropagation()}
            aria-label={fill(wording.statisticsOfNameBesideItsKind, { name: row.name })}
          >
            {common.statistics}
          </Button>
        </>
      ),
    },
  ];
  return (
    <DataTable
      label={wording.equipmentOfTheClass}
      columns={columns}
      rows={equipment}
      keyOf={(row) => row.uid}
      selected={selected}
      onSelect={(row) => onSelect(row.uid)}
      empty={wording.thereIsNoEquipmentOfThis}
    />
  );
}
