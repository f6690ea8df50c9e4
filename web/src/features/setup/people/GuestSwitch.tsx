/** Whether people may look without signing in. */
import { Box, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/setup-people.json';
import { changeGuestView, guestViewQuery } from '../../../entities/people';
import { errorText } from '../../../platform/errors';
import { Switched, Told } from '../../../ui';

export function GuestSwitch(): ReactElement | null {
  const queries = useQueryClient();
  const { data: seen } = useQuery(guestViewQuery);
  const changing = useMutation({
    mutationFn: async (enabled: boolean) => (seen === undefined ? null : changeGuestView(seen, enabled)),
    // One that was refused shows what holds: somebody else may have switched it.
    onSettled: () => queries.invalidateQueries({ queryKey: guestViewQuery.queryKey }),
  });
  if (seen === undefined) return null;
  return (
    <Box component="section" aria-labelledby="guest-view" sx={{ mt: 4 }}>
      <Typography id="guest-view" component="h2" variant="h3" sx={{ mb: 1 }}>
        {wording.guestView}
      </Typography>
      <Switched
        label={wording.guestsMayLook}
        value={changing.isPending ? changing.variables : seen.enabled}
        onChange={(enabled) => changing.mutate(enabled)}
      />
      <Typography variant="body2" sx={{ color: 'text.secondary' }}>
        {wording.guestViewNote}
      </Typography>
      {changing.error !== null && <Told kind="error">{errorText(changing.error)}</Told>}
    </Box>
  );
}
