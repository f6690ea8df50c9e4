/** The first account of all. As long as there is none, nothing else can be done. */
import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/people.json';
import { addFirst } from '../../entities/people';
import { FormActions, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';

interface FirstForm {
  name: string;
  full_name: string;
  password: string;
  again: string;
  code: string;
}
const Fields = fieldsOf<FirstForm>();
const SHAPE = shapes.shape(
  { name: shapes.filled(wording.giveYourName), password: shapes.filled(wording.giveYourPassword) },
  ({ password, again }: FirstForm): Record<string, string> =>
    password === again ? {} : { again: wording.passwordsDiffer },
);

export function FirstAdministrator(): ReactElement {
  const form = useSentForm<FirstForm, unknown>({
    values: { name: '', full_name: '', password: '', again: '', code: '' },
    shape: SHAPE,
    send: ({ name, full_name, password, code }) => addFirst({ name, full_name, password, code }),
    onDone: () => window.location.reload(),
    stays: true,
  });
  return (
    <Dialog open fullWidth maxWidth="xs" aria-labelledby="first-administrator">
      <DialogTitle id="first-administrator">{wording.firstAdministrator}</DialogTitle>
      <DialogContent>
        <FormFields of={form}>
          <form onSubmit={form.onSubmit} aria-label={wording.firstAdministrator} style={COLUMN}>
            <Told>{wording.firstNote}</Told>
            <Fields.Text name="name" label={common.name} fills="username" autoFocus />
            <Fields.Text name="full_name" label={wording.fullName} />
            <Fields.Text name="password" label={wording.password} hidden hint={wording.atLeast12} />
            <Fields.Text name="again" label={wording.repeatPassword} hidden />
            <Fields.Text name="code" label={wording.code} hint={wording.codeHint} />
            {form.general !== null && <Told kind="error">{form.general}</Told>}
            <FormActions save={wording.setUp} busy={form.busy} />
          </form>
        </FormFields>
      </DialogContent>
    </Dialog>
  );
}

const COLUMN = { display: 'grid', gap: 16 } as const;
