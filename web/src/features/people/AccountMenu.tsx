/** Who is signed in, and what one does with that: sessions, password, signing out. */
import { Box, Button, Popover, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as wording from 'texts/people.json';
import { fill } from '../../domain/fill';
import { momentText } from '../../domain/time';
import {
  endOtherSessions,
  endSession,
  sessionsQuery,
  signOut,
  type SessionEntry,
} from '../../entities/people';
import { meQuery, plantQuery } from '../../entities/plant';
import { errorText } from '../../platform/errors';
import { Told } from '../../ui';
import { ChangePassword } from './ChangePassword';
import { Tokens } from './Tokens';

interface AccountMenuProps {
  anchor: HTMLElement;
  onClose: () => void;
}

export function AccountMenu({ anchor, onClose }: AccountMenuProps): ReactElement {
  const { data: me } = useQuery(meQuery);
  const [isChanging, setIsChanging] = useState(false);
  const leaving = useMutation({ mutationFn: signOut, onSuccess: () => window.location.reload() });
  if (isChanging) return <ChangePassword isNeeded={false} onClose={onClose} />;
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      slotProps={{
        paper: { role: 'dialog', 'aria-label': fill(wording.accountOfName, { name: me?.name ?? '' }) },
      }}
    >
      <Box sx={{ p: 2, width: 380, maxWidth: '90vw', display: 'grid', gap: 1.5 }}>
        <Typography variant="subtitle2">{fill(wording.signedInAs, { name: me?.name ?? '' })}</Typography>
        <Sessions />
        <Tokens />
        {leaving.error !== null && <Told kind="error">{errorText(leaving.error)}</Told>}
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button size="small" onClick={() => setIsChanging(true)}>
            {wording.changePassword}
          </Button>
          <Button
            size="small"
            variant="outlined"
            disabled={leaving.isPending}
            onClick={() => leaving.mutate()}
          >
            {wording.signOut}
          </Button>
        </Box>
      </Box>
    </Popover>
  );
}

function Sessions(): ReactElement {
  const queries = useQueryClient();
  const { data: sessions = [], error } = useQuery(sessionsQuery);
  const askAnew = (): Promise<void> => queries.invalidateQueries({ queryKey: sessionsQuery.queryKey });
  const ending = useMutation({ mutationFn: endSession, onSuccess: askAnew });
  const endingAll = useMutation({ mutationFn: endOtherSessions, onSuccess: askAnew });
  const failure = error ?? ending.error ?? endingAll.error;
  return (
    <Box component="section" aria-label={wording.sessions} sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="caption" sx={{ color: 'text.secondary' }}>
        {wording.sessions}
      </Typography>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 260, overflow: 'auto' }}>
        {sessions.map((one) => (
          <SessionLine key={one.uid} one={one} onEnd={() => ending.mutate(one.uid)} />
        ))}
      </Box>
      {failure !== null && <Told kind="error">{errorText(failure)}</Told>}
      {sessions.length > 1 && (
        <Button size="small" sx={{ justifySelf: 'start' }} onClick={() => endingAll.mutate()}>
          {wording.signOutElsewhere}
        </Button>
      )}
    </Box>
  );
}

function SessionLine({ one, onEnd }: { one: SessionEntry; onEnd: () => void }): ReactElement {
  const { data: plant } = useQuery(plantQuery);
  const zone = plant?.zone ?? 'UTC';
  const [moment, seen] = [one.created_us, one.seen_us].map((us) => momentText(Number(us), zone));
  return (
    <Box component="li" sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          {one.is_this
            ? wording.thisSession
            : fill(wording.signedInFrom, { agent: browserOf(one.agent), address: one.address })}
        </Typography>
        <Typography variant="caption" sx={{ color: 'text.secondary' }}>
          {fill(wording.sinceMoment, { moment: moment ?? '', seen: seen ?? '' })}
        </Typography>
      </Box>
      {!one.is_this && (
        <Button size="small" onClick={onEnd}>
          {wording.endSession}
        </Button>
      )}
    </Box>
  );
}

/** The browser's own name out of all that it says of itself. */
function browserOf(agent: string): string {
  return /(Firefox|Edg|Chrome|Safari)\/[\d]+/.exec(agent)?.[0]?.replace('/', ' ') ?? wording.aBrowser;
}
