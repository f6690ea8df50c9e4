/** One's own password. */
import { Dialog, DialogContent, DialogTitle } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/people.json';
import { changePassword } from '../../entities/people';
import { meQuery } from '../../entities/plant';
import { FormActions, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';
import { say } from '../../ui/toasts';

interface PasswordForm {
  old: string;
  new: string;
  again: string;
}
const Fields = fieldsOf<PasswordForm>();
const SHAPE = shapes.shape(
  { old: shapes.filled(wording.giveYourPassword), new: shapes.filled(wording.giveYourPassword) },
  (values: PasswordForm): Record<string, string> =>
    values.new === values.again ? {} : { again: wording.passwordsDiffer },
);

interface ChangePasswordProps {
  /** Somebody else has given it: nothing else can be done before. */
  isNeeded: boolean;
  onClose: () => void;
}

export function ChangePassword({ isNeeded, onClose }: ChangePasswordProps): ReactElement {
  const queries = useQueryClient();
  const form = useSentForm<PasswordForm, Awaited<ReturnType<typeof changePassword>>>({
    values: { old: '', new: '', again: '' },
    shape: SHAPE,
    send: (values) => changePassword(values.old, values.new),
    onDone: async (me) => {
      say(wording.passwordChanged);
      queries.setQueryData(meQuery.queryKey, me);
      onClose();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== meQuery.queryKey[0] });
    },
  });
  return (
    <Dialog open fullWidth maxWidth="xs" aria-labelledby="change-password" {...(isNeeded ? {} : { onClose })}>
      <DialogTitle id="change-password">{wording.changeYourPassword}</DialogTitle>
      <DialogContent>
        <FormFields of={form}>
          <form onSubmit={form.onSubmit} aria-label={wording.changeYourPassword} style={COLUMN}>
            {isNeeded && <Told>{wording.yourPasswordWasGiven}</Told>}
            <Fields.Text
              name="old"
              label={wording.presentPassword}
              hidden
              fills="current-password"
              autoFocus
            />
            <Fields.Text name="new" label={wording.newPassword} hidden hint={wording.atLeast12} />
            <Fields.Text name="again" label={wording.repeatPassword} hidden />
            {form.general !== null && <Told kind="error">{form.general}</Told>}
            <FormActions save={wording.changePassword} busy={form.busy} />
          </form>
        </FormFields>
      </DialogContent>
    </Dialog>
  );
}

const COLUMN = { display: 'grid', gap: 16 } as const;
