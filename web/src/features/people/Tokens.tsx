/** Tokens with which programs act for one. */
import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/people.json';
import { fill } from '../../domain/fill';
import { DAY, momentText } from '../../domain/time';
import { makeToken, revokeToken, tokensQuery, type TokenEntry } from '../../entities/people';
import { meQuery, plantQuery, type Permission } from '../../entities/plant';
import { useServerNow } from '../../entities/clock';
import { errorText } from '../../platform/errors';
import { CopyButton, FormActions, Told } from '../../ui';
import { fieldsOf, FormFields, shapes, useSentForm } from '../../ui/form';

interface TokenForm {
  name: string;
  may: string;
  days: string;
}
const Fields = fieldsOf<TokenForm>();
const SHAPE = shapes.shape({ name: shapes.filled(wording.giveTheProgramAName) });
const READING: readonly Permission[] = ['view', 'export'];
const MAY = [
  { value: 'read', label: wording.seeAndExport },
  { value: 'all', label: wording.allThatIMay },
];
const ENDS = [
  { value: '30', label: wording.days30 },
  { value: '90', label: wording.days90 },
  { value: '365', label: wording.days365 },
];

export function Tokens(): ReactElement {
  const queries = useQueryClient();
  const { data: tokens = [], error } = useQuery(tokensQuery);
  const askAnew = (): Promise<void> => queries.invalidateQueries({ queryKey: tokensQuery.queryKey });
  const revoking = useMutation({ mutationFn: revokeToken, onSuccess: askAnew });
  const [isMaking, setIsMaking] = useState(false);
  const failure = error ?? revoking.error;
  return (
    <Box component="section" aria-label={wording.tokensForPrograms} sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {wording.tokensForPrograms}
      </Typography>
      {tokens.length > 0 && (
        <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 200, overflow: 'auto' }}>
          {tokens.map((one) => (
            <TokenLine key={one.uid} one={one} onRevoke={() => revoking.mutate(one.uid)} />
          ))}
        </Box>
      )}
      {failure !== null && <Told kind="error">{errorText(failure)}</Told>}
      {isMaking ? (
        <NewToken onMade={askAnew} />
      ) : (
        <Button size="small" sx={{ justifySelf: 'start' }} onClick={() => setIsMaking(true)}>
          {wording.makeAToken}
        </Button>
      )}
    </Box>
  );
}

function TokenLine({ one, onRevoke }: { one: TokenEntry; onRevoke: () => void }): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const text = (us: string): string => momentText(Number(us), plant?.zone ?? 'UTC');
  const used =
    one.used_us === null ? wording.neverUsed : fill(wording.lastUsed, { moment: text(one.used_us) });
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          {one.name}
        </Typography>
        <Typography variant="caption" sx={{ color: 'text.secondary' }}>
          {fill(wording.endsMoment, { moment: text(one.ends_us), used })}
        </Typography>
      </Box>
      <Button size="small" color="error" onClick={onRevoke}>
        {wording.revoke}
      </Button>
    </Box>
  );
}

function NewToken({ onMade }: { onMade: () => Promise<void> }): ReactElement {
  const { data: me } = useQuery(meQuery);
  const nowUs = useServerNow(false);
  const [made, setMade] = useState<{ name: string; token: string } | null>(null);
  const form = useSentForm<TokenForm, string>({
    values: { name: '', may: 'read', days: '90' },
    shape: SHAPE,
    send: ({ name, may, days }) =>
      makeToken({
        name,
        permissions:
          may === 'read' ? [...READING] : ((me?.permissions ?? []) as Permission[]).filter(isGiven),
        ends_us: String(nowUs + Number(days) * DAY),
      }),
    onDone: async (token, { name }) => {
      setMade({ name, token });
      await onMade();
    },
  });
  if (made !== null) {
    return (
      <Box sx={{ display: 'grid', gap: 1 }}>
        <Told kind="good">{wording.tokenShownOnce}</Told>
        <Box
          component="output"
          aria-label={fill(wording.tokenMade, { name: made.name })}
          sx={{ typography: 'body2', overflowWrap: 'anywhere', fontFamily: 'monospace' }}
        >
          {made.token}
        </Box>
        <Box>
          <CopyButton word={wording.copyToken} text={() => made.token} variant="outlined" />
        </Box>
      </Box>
    );
  }
  return (
    <FormFields of={form}>
      <form onSubmit={form.onSubmit} aria-label={wording.makeAToken} style={COLUMN}>
        <Fields.Text name="name" label={wording.tokenName} autoFocus />
        <Fields.Choice name="may" label={wording.mayLabel} options={MAY} />
        <Fields.Choice name="days" label={wording.endsAfter} options={ENDS} />
        {form.general !== null && <Told kind="error">{form.general}</Told>}
        <FormActions save={wording.makeAToken} busy={form.busy} />
      </form>
    </FormFields>
  );
}

/** No program manages people. */
const isGiven = (permission: Permission): boolean => permission !== 'manage_people';

const COLUMN = { display: 'grid', gap: 12 } as const;
