/** What the list of tags shows. */
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { Choice, TextLine } from '../../../ui';
import { VALUE_TYPES } from '../common/protocols';
import { equipmentQuery, type TagFilter } from '../../../entities/tags';
import type { Source } from '../../../entities/sources';

interface TagFiltersProps {
  filter: TagFilter;
  sources: readonly Source[];
  /** The equipment stands beside the list, where there is room. */
  hasTree: boolean;
  onChange: (filter: TagFilter) => void;
}

const ANY = { value: '', label: common.any };

export function TagFilters({ filter, sources, hasTree, onChange }: TagFiltersProps): ReactElement {
  const { data: equipment = [] } = useQuery(equipmentQuery);
  const set = (name: keyof TagFilter) => (value: string) => onChange({ ...filter, [name]: value });
  const paths = new Set(equipment.flatMap((one) => ancestors(one.path)));
  return (
    <Box
      role="search"
      aria-label={common.tags}
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: '1fr 1fr', lg: hasTree ? '2fr 1fr 1fr 1fr' : '2fr 1fr 1fr 1fr 1fr' },
        gap: 2,
        mb: 1,
      }}
    >
      <TextLine
        label={common.find}
        value={filter.search}
        placeholder={wording.nameDescriptionUnitEquipmentAddress}
        onChange={set('search')}
      />
      <Box sx={hasTree ? { display: { lg: 'none' } } : {}}>
        <Choice
          label={common.equipment}
          value={filter.equipment}
          options={[ANY, ...[...paths].sort().map((path) => ({ value: path, label: indented(path) }))]}
          onChange={set('equipment')}
        />
      </Box>
      <Choice
        label={common.source}
        value={filter.source}
        options={[ANY, ...sources.map((one) => ({ value: one.uid, label: one.name }))]}
        onChange={set('source')}
      />
      <Choice
        label={wording.type}
        value={filter.value_type}
        options={[ANY, ...VALUE_TYPES]}
        onChange={set('value_type')}
      />
      <Choice
        label={wording.recorded}
        value={filter.recorded}
        options={[
          ANY,
          { value: 'yes', label: wording.recordedTags },
          { value: 'no', label: common.notRecorded },
        ]}
        onChange={set('recorded')}
      />
    </Box>
  );
}

/** Line 1/Zone 2 is found under Line 1 too. */
function ancestors(path: string): string[] {
  const parts = path.split('/').filter(Boolean);
  return parts.map((_, i) => parts.slice(0, i + 1).join('/'));
}

function indented(path: string): string {
  const parts = path.split('/');
  return `${'\u2003'.repeat(parts.length - 1)}${parts.at(-1) ?? ''}`;
}
