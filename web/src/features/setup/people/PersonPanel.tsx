/** One person's account. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as people from 'texts/people.json';
import * as wording from 'texts/setup-people.json';
import { fill } from '../../../domain/fill';
import {
  endSessionsOf,
  removePerson,
  resetPassword,
  rolesQuery,
  savePerson,
  type Person,
} from '../../../entities/people';
import { errorText } from '../../../platform/errors';
import { InnerForm, Removal, TextLine, Told } from '../../../ui';
import { fieldsOf, shapes } from '../../../ui/form';
import { say } from '../../../ui/toasts';
import { StoredPanel } from '../common/StoredForm';
import { useSave } from '../common/useSave';
import { useStoredForm } from '../common/useStoredForm';
import { roleName } from './roles';

interface PersonPanelProps {
  person: Person | null;
  onClose: () => void;
  onMade: (uid: string) => void;
}

interface PersonForm {
  name: string;
  full_name: string;
  role: string;
  enabled: boolean;
  password: string;
}
const Fields = fieldsOf<PersonForm>();
const SHAPE = shapes.shape({});

export function PersonPanel({ person, onClose, onMade }: PersonPanelProps): ReactElement {
  const { data: roles = [] } = useQuery(rolesQuery);
  const stored = useStoredForm({
    stored: person,
    valuesOf: (version): PersonForm => ({
      name: version?.name ?? '',
      full_name: version?.full_name ?? '',
      role: version?.role ?? 'operator',
      enabled: version?.enabled ?? true,
      password: '',
    }),
    shape: SHAPE,
    save: (values, base) => savePerson(base, values),
    versionOf: (made) => made,
    onDone: (made) => onMade(made.uid),
  });
  const removing = useSave(removePerson, onClose);
  return (
    <StoredPanel
      title={person === null ? wording.aNewPerson : person.name}
      onClose={onClose}
      stored={stored}
      save={person === null ? common.add : common.save}
      said={person === null ? null : wording.saved}
      actions={
        person !== null && (
          <Removal
            what={person.name}
            busy={removing.busy}
            problem={removing.general}
            onRemove={() => removing.run(person)}
          >
            {wording.theAccountGoes}
          </Removal>
        )
      }
      below={person !== null && <Access key={person.uid} person={person} />}
    >
      <Fields.Text name="name" label={common.name} />
      <Fields.Text name="full_name" label={wording.fullName} />
      <Fields.Choice
        name="role"
        label={wording.role}
        options={roles.map(({ key }) => ({ value: key, label: roleName(key, roles) }))}
      />
      {person === null ? (
        <Fields.Text name="password" label={wording.firstPassword} hidden hint={wording.thePersonChangesIt} />
      ) : (
        <>
          <Fields.Switch name="enabled" label={wording.canSignIn} />
          <Told>{wording.changedRoleSignsOut}</Told>
        </>
      )}
    </StoredPanel>
  );
}

/** A password that was forgotten, and sessions that are to end. */
function Access({ person }: { person: Person }): ReactElement {
  const [password, setPassword] = useState('');
  const setting = useSave(
    (text: string) => resetPassword(person.uid, text),
    () => {
      setPassword('');
      say(wording.passwordSet);
    },
  );
  const ending = useMutation({
    mutationFn: () => endSessionsOf(person.uid),
    onSuccess: () => say(fill(wording.signedOut, { name: person.name })),
  });
  return (
    <Box sx={{ display: 'grid', gap: 1.5, mt: 2 }}>
      <Typography component="h3" variant="h3">
        {wording.aNewPassword}
      </Typography>
      <InnerForm onEnter={() => setting.run(password)}>
        <TextLine
          label={people.newPassword}
          value={password}
          hidden
          hint={wording.thePersonChangesIt}
          onChange={setPassword}
        />
      </InnerForm>
      {setting.general !== null && <Told kind="error">{setting.general}</Told>}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Button
          size="small"
          variant="outlined"
          disabled={password === '' || setting.busy}
          onClick={() => setting.run(password)}
        >
          {wording.setPassword}
        </Button>
        <Button size="small" disabled={ending.isPending} onClick={() => ending.mutate()}>
          {wording.signOutEverywhere}
        </Button>
      </Box>
      {ending.error !== null && <Told kind="error">{errorText(ending.error)}</Told>}
    </Box>
  );
}
