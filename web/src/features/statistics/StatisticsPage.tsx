/** Statistics: equipment beside its kind, or tables of figures. */
import type { ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { LanesPage } from './sheet/LanesPage';
import { formOf } from './sheet/state';
import { TablePage } from './table/TablePage';

export function StatisticsPage(): ReactElement {
  const [params] = useSearchParams();
  return formOf(params) === 'lanes' ? <LanesPage /> : <TablePage />;
}
