/** Signing in, over the page that was left: what was typed there stays. */
import { Button, Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/people.json';
import { meQuery } from '../../entities/plant';
import { firstQuery, signIn } from '../../entities/people';
import { lazyPart } from '../../ui/lazyPart';
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

const FirstAdministrator = lazyPart(
  wording.firstAdministrator,
  async () => (await import('./FirstAdministrator')).FirstAdministrator,
);

/** Who is to sign in where there is no account yet sets up the first one. */
export function SignIn(): ReactElement | null {
  const { data: me } = useQuery({ ...meQuery, enabled: false });
  const { data: isFirst, isPending } = useQuery({ ...firstQuery, enabled: me === undefined });
  if (me === undefined && isPending) return null;
  return isFirst === true ? <FirstAdministrator /> : <SignInDialog />;
}

function SignInDialog(): ReactElement {
  const queries = useQueryClient();
  const before = queries.getQueryData(meQuery.queryKey);
  const isGuest = before?.is_guest === true;
  const form = useSentForm<SignInForm, Awaited<ReturnType<typeof signIn>>>({
    values: { name: before?.account == null ? '' : before.name, password: '' },
    shape: SHAPE,
    send: ({ name, password }) => signIn(name, password),
    onDone: async (me) => {
      // What another person was shown, or had typed, is not this one's. A guest has become this one.
      if (before?.account != null && before.account !== me.account) {
        window.location.reload();
        return;
      }
      queries.setQueryData(meQuery.queryKey, me);
      session.signedIn();
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog
      open
      fullWidth
      maxWidth="xs"
      aria-labelledby="sign-in"
      {...(isGuest ? { onClose: () => session.signedIn() } : {})}
    >
      <DialogTitle id="sign-in">{wording.signIn}</DialogTitle>
      <DialogContent>
        <FormFields of={form}>
          <form onSubmit={form.onSubmit} aria-label={wording.signIn} style={COLUMN}>
            {before?.account != null && <Told>{wording.whatYouTypedIsStillHere}</Told>}
            {isGuest && session.isRefused && <Told>{wording.guestsMayNotDoThis}</Told>}
            <Fields.Text name="name" label={wording.name} fills="username" autoFocus />
            <Fields.Text name="password" label={wording.password} hidden fills="current-password" />
            {form.general !== null && <Told kind="error">{form.general}</Told>}
            <FormActions save={wording.signIn} busy={form.busy}>
              {isGuest && (
                <Button size="small" onClick={() => session.signedIn()}>
                  {wording.goOnAsAGuest}
                </Button>
              )}
            </FormActions>
          </form>
        </FormFields>
      </DialogContent>
    </Dialog>
  );
}

const COLUMN = { display: 'grid', gap: 16 } as const;
