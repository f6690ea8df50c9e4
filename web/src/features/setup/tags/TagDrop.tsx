/** Where dragged tags are dropped: each logger is a place, and records what falls on it. */
import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../domain/fill';
import { Panel, Told } from '../../../ui';
import { useSave } from '../common/useSave';
import { loggersQuery, type Logger, changeMembers } from '../../../entities/loggers';

interface TagDropProps {
  /** Those under way; none once they were dropped. */
  uids: readonly string[];
  onClose: () => void;
}

export function TagDrop({ uids, onClose }: TagDropProps): ReactElement {
  const { data: loggers = [], isSuccess } = useQuery(loggersQuery);
  const [over, setOver] = useState<string | null>(null);
  const [dropped, setDropped] = useState<{ logger: Logger; count: number } | null>(null);
  const saving = useSave(({ logger, add }: { logger: Logger; add: readonly string[] }) =>
    changeMembers(logger.uid, add),
  );
  const drop = (logger: Logger): void => {
    setOver(null);
    setDropped({ logger, count: uids.length });
    saving.run({ logger, add: uids });
  };
  return (
    <Panel title={wording.dropThemOnALogger} onClose={onClose}>
      {isSuccess && loggers.length === 0 && <Told>{wording.thereIsNoLoggerYetAdd}</Told>}
      <Box
        component="ul"
        aria-label={common.loggers}
        sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gridTemplateColumns: 'minmax(0, 1fr)', gap: 1 }}
      >
        {loggers.map((logger) => (
          <Box
            component="li"
            key={logger.uid}
            onDragOver={(event) => {
              event.preventDefault();
              event.dataTransfer.dropEffect = 'link';
              setOver(logger.uid);
            }}
            onDragLeave={() => setOver(null)}
            onDrop={(event) => {
              event.preventDefault();
              drop(logger);
            }}
            sx={{
              border: 1,
              borderStyle: over === logger.uid ? 'solid' : 'dashed',
              borderColor: over === logger.uid ? 'primary.main' : 'divider',
              bgcolor: over === logger.uid ? 'action.selected' : 'transparent',
              px: 1.5,
              py: 0.75,
            }}
          >
            <Typography noWrap variant="body2">
              {logger.name}
            </Typography>
            <Typography noWrap title={logger.text} variant="caption" sx={{ color: 'text.secondary' }}>
              {fill(wording.textTagsTags, { text: logger.text, tags: logger.tags.length })}
            </Typography>
          </Box>
        ))}
      </Box>
      {saving.done && dropped !== null && (
        <Told kind="good">
          {fill(wording.nameRecordsCountWithin2S, {
            name: dropped.logger.name,
            count: countText(dropped.count),
          })}
        </Told>
      )}
      {saving.general !== null && <Told kind="error">{saving.general}</Told>}
    </Panel>
  );
}

function countText(count: number): string {
  return fill(wording.theTags, { count });
}
