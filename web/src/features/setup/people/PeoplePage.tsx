/** People: who may sign in, and what each may do. */
import { Add } from '@mui/icons-material';
import { Button } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-people.json';
import { momentText } from '../../../domain/time';
import { peopleQuery, rolesQuery, type Person, type Role } from '../../../entities/people';
import { meQuery, plantQuery } from '../../../entities/plant';
import { errorText } from '../../../platform/errors';
import { useAddress } from '../../../platform/useAddress';
import { DataTable, Told, useOpen, type Column, Offered } from '../../../ui';
import { lazyPart, usePreloaded } from '../../../ui/lazyPart';
import { Gone } from '../common/Gone';
import { Page } from '../common/Page';
import { GuestSwitch } from './GuestSwitch';
import { roleName } from './roles';
import { RoleTable } from './RoleTable';
import { Needs, useWhyNot } from '../../../entities/access/Needs';

const PersonPanel = lazyPart(
  wording.thePanelOfThePerson,
  async () => (await import('./PersonPanel')).PersonPanel,
);
const RolePanel = lazyPart(wording.thePanelOfTheRole, async () => (await import('./RolePanel')).RolePanel);
const PRELOADED = [PersonPanel, RolePanel];
const NEW_ROLE = 'new-role';

/** Who may not manage people is told so; a guest is asked to sign in by the first answer of the server. */
export function PeoplePage(): ReactElement {
  const { data: me } = useQuery(meQuery);
  const whyNot = useWhyNot('manage_people');
  if (whyNot === null || me?.is_guest === true)
    return (
      <Needs permission="manage_people">
        <Accounts />
      </Needs>
    );
  return (
    <Page title={common.people} note={wording.note}>
      <Told>{whyNot}</Told>
    </Page>
  );
}

function Accounts(): ReactElement {
  const { data: people = [], isSuccess, isFetching, error } = useQuery(peopleQuery);
  const { data: roles = [] } = useQuery(rolesQuery);
  const { data: plant } = useQuery(plantQuery);
  usePreloaded(isSuccess, PRELOADED);
  const { open, show, put } = useOpen(useAddress());
  const chosen = people.find((one) => one.uid === open);
  const role = roles.find((one) => one.uid !== null && one.uid === open);
  return (
    <Page
      title={common.people}
      note={wording.note}
      actions={
        <Offered>
          <Button size="small" variant="outlined" startIcon={<Add />} onClick={() => show('new')}>
            {wording.addAPerson}
          </Button>
        </Offered>
      }
      panel={
        role !== undefined || open === NEW_ROLE ? (
          <RolePanel key={open} role={role ?? null} {...{ people, onClose: () => show(null), onMade: put }} />
        ) : open === 'new' || chosen !== undefined ? (
          <PersonPanel key={open} person={chosen ?? null} onClose={() => show(null)} onMade={put} />
        ) : null
      }
    >
      {error !== null && <Told kind="error">{errorText(error)}</Told>}
      {role === undefined && open !== NEW_ROLE && (
        <Gone what={wording.person} open={open} list={people} isKnown={isSuccess && !isFetching} />
      )}
      <DataTable
        label={common.people}
        columns={columnsFor(plant?.zone ?? 'UTC', roles)}
        rows={people}
        keyOf={(row) => row.uid}
        selected={open}
        onSelect={(row) => show(row.uid)}
        empty={error !== null ? '' : isSuccess ? wording.noPeople : common.reading}
      />
      <GuestSwitch />
      <RoleTable roles={roles} onOpen={(uid) => show(uid ?? NEW_ROLE)} />
    </Page>
  );
}

function columnsFor(zone: string, roles: readonly Role[]): Column<Person>[] {
  const seen = ({ seen_us }: Person): string =>
    seen_us === null ? wording.never : momentText(Number(seen_us), zone);
  return [
    { name: common.name, of: (row) => row.name, value: (row) => row.name, width: '24%' },
    { name: wording.fullName, of: (row) => row.full_name, value: (row) => row.full_name },
    { name: wording.role, of: (row) => roleName(row.role, roles), value: (row) => roleName(row.role, roles) },
    { name: wording.state, of: stateOf, value: stateOf },
    { name: wording.lastSignIn, of: seen, value: (row) => row.seen_us },
  ];
}

function stateOf({ enabled, must_change }: Person): string {
  if (!enabled) return wording.disabled;
  return must_change ? wording.passwordToBeChanged : wording.enabled;
}
