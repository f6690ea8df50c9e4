/** Signing in, over the page that was left: what was typed there stays. */
import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/people.json';
import { meQuery } from '../../entities/plant';
import { signIn } from '../../entities/people';
import { session } from '../../platform/session';
import { FormActions, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';

interface SignInForm {
  name: string;
  password: string;
}
const Fields = fieldsOf<SignInForm>();
const SHAPE = shapes.shape({
  name: shapes.filled(wording.giveYourName),
  password: shapes.filled(wording.giveYourPassword),
});

export function SignIn(): ReactElement {
  const queries = useQueryClient();
  const before = queries.getQueryData(meQuery.queryKey);
  const form = useSentForm<SignInForm, Awaited<ReturnType<typeof signIn>>>({
    values: { name: before?.account == null ? '' : before.name, password: '' },
    shape: SHAPE,
    send: ({ name, password }) => signIn(name, password),
    onDone: async (me) => {
      // What another person was shown, or had typed, is not this one's.
      if (before !== undefined && before.account !== me.account) {
        window.location.reload();
        return;
      }
      queries.setQueryData(meQuery.queryKey, me);
      session.signedIn();
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog open fullWidth maxWidth="xs" aria-labelledby="sign-in">
      <DialogTitle id="sign-in">{wording.signIn}</DialogTitle>
      <DialogContent>
        <FormFields of={form}>
          <form onSubmit={form.onSubmit} aria-label={wording.signIn} style={COLUMN}>
            {before?.account != null && <Told>{wording.whatYouTypedIsStillHere}</Told>}
            <Fields.Text name="name" label={wording.name} fills="username" autoFocus />
            <Fields.Text name="password" label={wording.password} hidden fills="current-password" />
            {form.general !== null && <Told kind="error">{form.general}</Told>}
            <FormActions save={wording.signIn} busy={form.busy} />
          </form>
        </FormFields>
      </DialogContent>
    </Dialog>
  );
}

const COLUMN = { display: 'grid', gap: 16 } as const;
