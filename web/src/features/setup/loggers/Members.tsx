/** The tags of a logger: which they are, and how to take one out. */
import { Close } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { Told, Offered } from '../../../ui';
import { FindMembers } from './FindMembers';
import { ColumnName, OwnInhibit, OwnRule } from './MemberOwn';
import { useSave } from '../common/useSave';
import { tagNamesQuery } from '../../../entities/tags';
import type { Logger } from '../../../entities/loggers';
import { changeMembers } from '../../../entities/loggers';

const PAGE = 50;

export function Members({ logger }: { logger: Logger }): ReactElement {
  const uids = logger.tags;
  const [page, setPage] = useState(0);
  const shown = uids.slice(page * PAGE, (page + 1) * PAGE);
  const { data: tags = [] } = useQuery(tagNamesQuery(shown));
  const [own, setOwn] = useState<string | null>(null);
  const [inhibited, setInhibited] = useState<string | null>(null);
  const [finds, setFinds] = useState(uids.length === 0);
  const joining = useSave((added: readonly string[]) => changeMembers(logger.uid, added));
  const leaving = useSave((uid: string) => changeMembers(logger.uid, [], [uid]));
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
      <Typography variant="subtitle2">
        {uids.length === 0 ? wording.noTagsYet : fill(common.countTags, { count: uids.length })}
      </Typography>
      <Box component="ul" aria-label={wording.tagsOfTheLogger} sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {tags.map((tag) => (
          <Box component="li" key={tag.uid} sx={{ display: 'flex', alignItems: 'center', minHeight: 26 }}>
            <Typography noWrap variant="caption" sx={{ flex: 1 }}>
              {tag.name}
            </Typography>
            {logger.mode === 'on_change' && (
              <Button size="small" sx={{ typography: 'caption', py: 0 }} onClick={() => setOwn(tag.uid)}>
                {logger.overrides?.[tag.uid] === undefined ? wording.overrideRule : wording.ruleOverridden}
              </Button>
            )}
            <Button size="small" sx={{ typography: 'caption', py: 0 }} onClick={() => setInhibited(tag.uid)}>
              {logger.inhibits?.[tag.uid] === undefined ? wording.inhibitTag : wording.inhibitTagSet}
            </Button>
            {logger.mode === 'on_trigger' && <ColumnName logger={logger} uid={tag.uid} name={tag.name} />}
            <Offered>
              {' '}
              <IconButton
                size="small"
                aria-label={fill(common.removeName, { name: tag.name })}
                disabled={leaving.busy}
                onClick={() => leaving.run(tag.uid)}
              >
                <Close fontSize="small" />
              </IconButton>
            </Offered>
          </Box>
        ))}
      </Box>
      {logger.mode === 'on_change' && own !== null && uids.includes(own) && (
        <OwnRule
          key={own}
          logger={logger}
          uid={own}
          name={tags.find((tag) => tag.uid === own)?.name ?? ''}
          onDone={() => setOwn(null)}
        />
      )}
      {inhibited !== null && uids.includes(inhibited) && (
        <OwnInhibit
          key={inhibited}
          logger={logger}
          uid={inhibited}
          name={tags.find((tag) => tag.uid === inhibited)?.name ?? ''}
          onDone={() => setInhibited(null)}
        />
      )}
      {uids.length > PAGE && (
        <Box sx={{ typography: 'caption', display: 'flex', gap: 1, alignItems: 'center' }}>
          <button type="button" disabled={page === 0} onClick={() => setPage(page - 1)}>
            {wording.back}
          </button>
          {fill(wording.numberToNumber, {
            number: page * PAGE + 1,
            number2: Math.min((page + 1) * PAGE, uids.length),
          })}
          <button type="button" disabled={(page + 1) * PAGE >= uids.length} onClick={() => setPage(page + 1)}>
            {wording.on}
          </button>
        </Box>
      )}
      {leaving.general !== null && <Told kind="error">{leaving.general}</Told>}
      {finds ? (
        <FindMembers taken={uids} busy={joining.busy} onAdd={joining.run} />
      ) : (
        <Offered>
          {' '}
          <Button size="small" onClick={() => setFinds(true)}>
            {wording.addTags}
          </Button>
        </Offered>
      )}
      {joining.general !== null && <Told kind="error">{joining.general}</Told>}
    </Box>
  );
}
