/** Records of triggered loggers: newest first, following live. */
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { RecordsView } from './RecordsView';
import { plantQuery } from '../../entities/plant';
import { recordLoggersQuery, recordsQuery } from '../../entities/records';

export function RecordsPage(): ReactElement {
  const { data: loggers = [], isSuccess } = useQuery(recordLoggersQuery);
  const { data: plant } = useQuery(plantQuery);
  const [params, setParams] = useSearchParams();
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [search, setSearch] = useState('');
  const logger = loggers.find((one) => one.uid === params.get('logger')) ?? loggers[0];
  const { data, hasNextPage, fetchNextPage } = useInfiniteQuery(
    recordsQuery(logger?.uid ?? '', logger?.records ?? 0),
  );
  return (
    <RecordsView
      loggers={loggers}
      known={isSuccess}
      logger={logger ?? null}
      page={data?.pages[0] ?? null}
      records={data?.pages.flatMap((page) => page.records) ?? []}
      zone={plant?.zone ?? 'UTC'}
      hidden={hidden}
      search={search}
      onSearch={setSearch}
      onChoose={(uid) => setParams({ logger: uid })}
      onToggle={(tag) => {
        const next = new Set(hidden);
        if (!next.delete(tag)) next.add(tag);
        setHidden(next);
      }}
      onMore={hasNextPage ? () => void fetchNextPage() : null}
    />
  );
}
