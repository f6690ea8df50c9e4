/** A role of one's own: what may be done by those who have it. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-people.json';
import { fill } from '../../../domain/fill';
import { PERMISSIONS } from '../../../entities/access/permissions';
import { removeRole, saveRole, type Person, type Role } from '../../../entities/people';
import type { Permission } from '../../../entities/plant';
import { Removal, Switched, Told } from '../../../ui';
import { fieldsOf, ListProblem, shapes } from '../../../ui/form';
import { StoredPanel } from '../common/StoredForm';
import { useSave } from '../common/useSave';
import { useStoredForm } from '../common/useStoredForm';

interface RolePanelProps {
  role: Role | null;
  people: readonly Person[];
  onClose: () => void;
  onMade: (uid: string) => void;
}

interface RoleForm {
  name: string;
  permissions: Permission[];
}
const Fields = fieldsOf<RoleForm>();
const SHAPE = shapes.shape({});
/** To see is part of every role; people are managed by administrators. */
const CHOSEN = Object.entries(PERMISSIONS).filter(
  ([permission]) => permission !== 'view' && permission !== 'manage_people',
) as [Permission, string][];

export function RolePanel({ role, people, onClose, onMade }: RolePanelProps): ReactElement {
  const stored = useStoredForm({
    stored: role,
    valuesOf: (version): RoleForm => ({
      name: version?.name ?? '',
      permissions: version?.permissions ?? ['view'],
    }),
    shape: SHAPE,
    save: (values, base) => saveRole(base, values),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid ?? ''),
  });
  const removing = useSave(removeRole, onClose);
  const having = people.filter((one) => one.role === role?.key).map((one) => one.name);
  return (
    <StoredPanel
      title={role === null ? wording.aNewRole : role.name}
      onClose={onClose}
      stored={stored}
      save={role === null ? common.add : common.save}
      said={role === null ? null : wording.saved}
      actions={
        role?.uid != null &&
        having.length === 0 && (
          <Removal
            what={role.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(role.uid ?? '')}
          >
            {wording.theRoleGoes}
          </Removal>
        )
      }
    >
      <Fields.Text name="name" label={wording.nameOfTheRole} />
      <Fields.Part<Permission[]> name="permissions">
        {({ value, onChange }) => (
          <Box role="group" aria-label={wording.permission} sx={{ display: 'grid' }}>
            {CHOSEN.map(([permission, name]) => (
              <Switched
                key={permission}
                label={name}
                value={value.includes(permission)}
                onChange={(on) =>
                  onChange(on ? [...value, permission].sort() : value.filter((one) => one !== permission))
                }
              />
            ))}
          </Box>
        )}
      </Fields.Part>
      <ListProblem name="permissions" />
      {role !== null && <Told>{whoHasIt(having)}</Told>}
    </StoredPanel>
  );
}

/** Whom a change has an effect on. */
function whoHasIt(names: readonly string[]): string {
  if (names.length === 0) return wording.nobodyHasThisRole;
  const told = { names: names.join(', '), count: names.length };
  return fill(names.length === 1 ? wording.onePersonHasThisRole : wording.peopleHaveThisRole, told);
}
