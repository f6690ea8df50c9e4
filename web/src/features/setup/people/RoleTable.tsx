/** What each role may do, side by side. */
import { Add } from '@mui/icons-material';
import { Box, Button, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-people.json';
import { fill } from '../../../domain/fill';
import { PERMISSIONS } from '../../../entities/access/permissions';
import type { Role } from '../../../entities/people';
import type { Permission } from '../../../entities/plant';
import { DataTable, type Column } from '../../../ui';
import { roleName } from './roles';

interface Line {
  permission: Permission;
  name: string;
}
const LINES = Object.entries(PERMISSIONS).map(([permission, name]) => ({
  permission: permission as Permission,
  name,
}));

interface RoleTableProps {
  roles: readonly Role[];
  /** Opens a role of one's own; null: a new one. */
  onOpen: (uid: string | null) => void;
}

export function RoleTable({ roles, onOpen }: RoleTableProps): ReactElement {
  const own = roles.filter(({ uid }) => uid !== null);
  const columns: Column<Line>[] = [
    { name: wording.permission, of: ({ name }) => name, isHead: true },
    ...roles.map(({ key, permissions }): Column<Line> => ({
      id: key,
      name: roleName(key, roles),
      of: ({ permission }) => (permissions.includes(permission) ? common.yes : '–'),
    })),
  ];
  return (
    <Box sx={{ mt: 4 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1, flexWrap: 'wrap' }}>
        <Typography component="h2" variant="h3">
          {wording.rolesAndPermissions}
        </Typography>
        <Typography variant="caption" sx={{ color: 'text.secondary', flex: 1 }}>
          {wording.rolesOfTheProgramStay}
        </Typography>
        {own.map(({ uid, name }) => (
          <Button key={uid} size="small" onClick={() => onOpen(uid)}>
            {fill(wording.editName, { name })}
          </Button>
        ))}
        <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => onOpen(null)}>
          {wording.addARole}
        </Button>
      </Box>
      <DataTable
        label={wording.rolesAndPermissions}
        columns={columns}
        rows={LINES}
        keyOf={({ permission }) => permission}
        empty={common.reading}
      />
    </Box>
  );
}
