/** What each role may do, side by side. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-people.json';
import { rolesQuery } from '../../../entities/people';
import type { Permission } from '../../../entities/plant';
import { DataTable, type Column } from '../../../ui';
import { PERMISSIONS, roleName } from './roles';

interface Line {
  permission: Permission;
  name: string;
}
const LINES = Object.entries(PERMISSIONS).map(([permission, name]) => ({
  permission: permission as Permission,
  name,
}));

export function RoleTable(): ReactElement {
  const { data: roles = [] } = useQuery(rolesQuery);
  const columns: Column<Line>[] = [
    { name: wording.permission, of: ({ name }) => name, isHead: true },
    ...roles.map(({ name, permissions }): Column<Line> => ({
      id: name,
      name: roleName(name),
      of: ({ permission }) => (permissions.includes(permission) ? common.yes : '–'),
    })),
  ];
  return (
    <Box sx={{ mt: 4 }}>
      <Typography component="h2" variant="h3" sx={{ mb: 1 }}>
        {wording.rolesAndPermissions}
      </Typography>
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
