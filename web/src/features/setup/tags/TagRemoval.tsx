/** Removing tags: what goes along is said first. */
import { Box, Button } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { Told, useRefusal } from '../../../ui';
import { useRemoval } from '../common/useRemoval';
import { removeTags } from '../../../entities/tags';

interface TagRemovalProps {
  uids: readonly string[];
  /** What they are called together. */
  name: string;
  revisions?: Record<string, number>;
  onDone: () => void;
}

export function TagRemoval({ uids, name, revisions = {}, onDone }: TagRemovalProps): ReactElement | null {
  const ask = (dryRun: boolean) => removeTags({ uids: [...uids], revisions, dry_run: dryRun });
  const preview = useMutation({ mutationFn: () => ask(true) });
  const removing = useRemoval(
    () => ask(false),
    {
      uid: uids[0] ?? '',
      name,
      isMany: uids.length > 1,
    },
    onDone,
  );
  const isRefused = useRefusal() !== null;
  const told = preview.data;
  if (isRefused) return null;
  if (told === undefined) {
    return (
      <Button size="small" color="error" onClick={() => preview.mutate()}>
        {wording.remove}
      </Button>
    );
  }
  const leaving =
    told.loggers.length === 0
      ? ''
      : ` ${fill(wording.theyLeaveLoggers, { loggers: told.loggers.join(', ') })}`;
  const using =
    told.calculated.length === 0
      ? ''
      : ` ${fill(wording.calculatedFromThemAndBadFrom, { tags: told.tags, calculated: told.calculated.join(', ') })}`;
  return (
    <Box sx={{ display: 'grid', gap: 1, width: '100%' }}>
      <Told kind="error">
        {fill(wording.tagsGo, { tags: told.tags })}
        {leaving}
        {using} {fill(wording.samplesRecordedSamplesStayInThe, { samples: told.samples })}
      </Told>
      <Button
        size="small"
        color="error"
        variant="outlined"
        disabled={removing.busy}
        onClick={() => removing.run(null)}
      >
        {fill(wording.removeTags, { tags: told.tags })}
      </Button>
      {removing.general !== null && <Told kind="error">{removing.general}</Told>}
    </Box>
  );
}
