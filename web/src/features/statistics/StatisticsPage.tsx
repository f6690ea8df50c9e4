/** Statistics: equipment beside its kind, or tables of figures. */
import type { ReactElement } from 'react';
import { useSearchParams } from 'react-router';
import { LanesPage } from './LanesPage';
import { formOf } from './state';
import { TablePage } from './TablePage';

export function StatisticsPage(): ReactElement {
  const [params] = useSearchParams();
  return formOf(params) === 'lanes' ? <LanesPage /> : <TablePage />;
}
