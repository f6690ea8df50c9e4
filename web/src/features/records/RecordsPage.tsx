/** Records of triggered loggers: newest first, following live. */
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState, type ReactElement } from 'react';
import { RecordsView } from './RecordsView';
import { plantQuery } from '../../entities/plant';
import { useWindowInAddress } from '../../entities/useWindowInAddress';
import { useAddress, withParam } from '../../platform/useAddress';
import { recordLoggersQuery, recordsQuery, type RecordsLook } from '../../entities/records';
import { useSettled } from '../../platform/useSettled';

const TYPED_MS = 250;

export function RecordsPage(): ReactElement {
  const { data: loggers = [], isSuccess } = useQuery(recordLoggersQuery);
  const { data: plant } = useQuery(plantQuery);
  const address = useAddress();
  const [params, write] = address;
  const where = useWindowInAddress(address, null);
  const [search, setSearch] = useState('');
  const logger = loggers.find((one) => one.uid === params.get('logger')) ?? loggers[0];
  const asked = useSettled(search.trim(), TYPED_MS);
  const [order, setOrder] = useState<RecordsLook['order']>(null);
  const look = { search: asked, order };
  const { data, hasNextPage, fetchNextPage, error } = useInfiniteQuery(
    recordsQuery(logger?.uid ?? '', logger?.records ?? 0, where.listed, look),
  );
  // What has left the window since the list was read is in it no more.
  const sinceUs = where.span?.startUs ?? 0;
  const records = (data?.pages.flatMap((page) => page.records) ?? []).filter(
    (record) => Number(record.t_us) >= sinceUs,
  );
  return (
    <RecordsView
      loggers={loggers}
      known={isSuccess}
      logger={logger ?? null}
      page={data?.pages[0] ?? null}
      records={records}
      zone={plant?.zone ?? 'UTC'}
      search={search}
      onSearch={setSearch}
      look={look}
      onOrder={setOrder}
      error={where.error ?? error}
      span={where.span}
      isAll={where.window === null}
      onAll={() => where.setWindow(null)}
      onChoose={(uid) => {
        // Another logger has other columns.
        setOrder(null);
        write(withParam(params, 'logger', uid));
      }}
      onMore={hasNextPage ? () => void fetchNextPage() : null}
    />
  );
}
