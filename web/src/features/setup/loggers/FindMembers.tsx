/** Tags for a logger, found by words and source, added one by one or all at once. */
import { Add } from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { useInfiniteQuery, useMutation, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-loggers.json';
import { fill } from '../../../domain/fill';
import { errorText } from '../../../platform/errors';
import { useSettled } from '../../../platform/useSettled';
import { sourcesQuery } from '../../../entities/sources';
import { findUids, NO_FILTER, tagRowsQuery } from '../../../entities/tags';
import { Choice, Pairs, Switched, TextLine, Told } from '../../../ui';

interface FindMembersProps {
  /** Those that it has already. */
  taken: readonly string[];
  busy: boolean;
  onAdd: (uids: readonly string[]) => void;
}

const SHOWN = 8;
const TYPING_MS = 200;
/** As many as one logger may have. */
const MOST = 10_000;

export function FindMembers({ taken, busy, onAdd }: FindMembersProps): ReactElement {
  const [search, setSearch] = useState('');
  const [source, setSource] = useState('');
  const [isNew, setIsNew] = useState(true);
  const filter = {
    ...{ ...NO_FILTER, source, recorded: isNew ? 'no' : '' },
    search: useSettled(search.trim(), TYPING_MS),
  };
  const { data: sources = [] } = useQuery(sourcesQuery);
  const { data, error } = useInfiniteQuery(tagRowsQuery(filter));
  const all = useMutation({
    mutationFn: () => findUids(filter),
    onSuccess: (uids) => onAdd(uids.filter((uid) => !taken.includes(uid)).slice(0, MOST)),
  });
  const found = (data?.pages[0]?.tags ?? []).filter(({ uid }) => !taken.includes(uid));
  const isWhole = data?.pages[0] !== undefined && data.pages[0].total === data.pages[0].tags.length;
  const total = isWhole ? found.length : (data?.pages[0]?.total ?? 0);
  const problem = error ?? all.error;
  return (
    <Box role="group" aria-label={common.addTags} sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      <Pairs>
        <TextLine
          label={wording.findTags}
          placeholder={wording.wordsInAnyOrder}
          value={search}
          onChange={setSearch}
        />
        <Choice
          label={wording.ofTheSource}
          value={source}
          options={[
            { value: '', label: common.any },
            ...sources.map(({ uid, name }) => ({ value: uid, label: name })),
          ]}
          onChange={setSource}
        />
      </Pairs>
      <Switched label={wording.onlyTagsThatNoLoggerRecords} value={isNew} onChange={setIsNew} />
      <Box component="ul" aria-label={wording.tagsFound} sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {found.slice(0, SHOWN).map(({ uid, name }) => (
          <Box component="li" key={uid} sx={{ display: 'flex', alignItems: 'center', minHeight: 26 }}>
            <Typography noWrap variant="caption" sx={{ flex: 1 }}>
              {name}
            </Typography>
            <IconButton
              size="small"
              aria-label={fill(wording.addName, { name })}
              disabled={busy}
              onClick={() => onAdd([uid])}
            >
              <Add fontSize="small" />
            </IconButton>
          </Box>
        ))}
      </Box>
      {data !== undefined && total === 0 && <Told>{common.noTagIsFound}</Told>}
      {total > 1 && (
        <Box>
          <Button
            size="small"
            variant="outlined"
            disabled={busy || all.isPending}
            onClick={() => all.mutate()}
          >
            {fill(wording.addAllTotalTags, { total })}
          </Button>
        </Box>
      )}
      {problem !== null && <Told kind="error">{errorText(problem)}</Told>}
    </Box>
  );
}
