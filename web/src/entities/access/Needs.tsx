/** Parts of a page whose changes need a permission: who does not have it is not offered them, and told why. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement, ReactNode } from 'react';
import * as wording from 'texts/access.json';
import { fill } from '../../domain/fill';
import { AccessContext } from '../../ui/access';
import { meQuery, type Permission } from '../plant';
import { PERMISSIONS } from './permissions';

interface NeedsProps {
  permission: Permission;
  children: ReactNode;
}

export function Needs({ permission, children }: NeedsProps): ReactElement {
  return <AccessContext value={useWhyNot(permission)}>{children}</AccessContext>;
}

/** Why the person who is looking may not do something; null: they may, or it is not known yet who it is. */
export function useWhyNot(permission: Permission): string | null {
  const { data: me } = useQuery(meQuery);
  if (me === undefined || me.permissions.includes(permission)) return null;
  const what = PERMISSIONS[permission];
  return fill(me.is_guest ? wording.guestsMayNot : wording.yourAccountMayNot, { what });
}
