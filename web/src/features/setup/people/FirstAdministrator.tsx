/** The first account of all: after it everybody has to sign in. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-people.json';
import * as people from 'texts/people.json';
import { addFirst } from '../../../entities/people';
import { FormActions, Told } from '../../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../../ui/form';
import { Page } from '../common/Page';

interface FirstForm {
  name: string;
  full_name: string;
  password: string;
  again: string;
  code: string;
}
const Fields = fieldsOf<FirstForm>();
const SHAPE = shapes.shape(
  { name: shapes.filled(people.giveYourName), password: shapes.filled(people.giveYourPassword) },
  ({ password, again }: FirstForm): Record<string, string> =>
    password === again ? {} : { again: people.passwordsDiffer },
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
    <Page title={common.people} note={wording.note}>
      <FormFields of={form}>
        <form onSubmit={form.onSubmit} aria-label={wording.firstAdministrator} style={COLUMN}>
          <Told>{wording.firstNote}</Told>
          <Fields.Text name="name" label={common.name} fills="username" />
          <Fields.Text name="full_name" label={wording.fullName} />
          <Fields.Text name="password" label={people.password} hidden hint={people.atLeast12} />
          <Fields.Text name="again" label={people.repeatPassword} hidden />
          <Fields.Text name="code" label={wording.code} hint={wording.codeHint} />
          {form.general !== null && <Told kind="error">{form.general}</Told>}
          <FormActions save={wording.setUp} busy={form.busy} />
        </form>
      </FormFields>
    </Page>
  );
}

const COLUMN = { display: 'grid', gap: 16, maxWidth: 420 } as const;
