/** Statistics: equipment beside its kind, or tables of figures. */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, type ReactElement } from 'react';
import * as wording from 'texts/statistics.json';
import { useWindowInAddress } from '../../entities/useWindowInAddress';
import { lazyPart } from '../../ui/lazyPart';
import { useAddress } from '../../platform/useAddress';
import { useUsualWindow } from './sheet/useUsualWindow';
import { formOf } from './sheet/state';

const LanesPage = lazyPart(
  wording.equipmentBesideItsKind,
  async () => (await import('./sheet/LanesPage')).LanesPage,
);
const TablePage = lazyPart(
  wording.theTableOfFigures,
  async () => (await import('./table/TablePage')).TablePage,
);

/** The last shift is another one when this one ends: what is shown of it is read anew then. */
function useRefetchWhenMoved(key: string): void {
  const queries = useQueryClient();
  const before = useRef('');
  useEffect(() => {
    const isOther = before.current !== '' && key !== '' && before.current !== key;
    before.current = key;
    if (isOther) void queries.invalidateQueries({ queryKey: ['statistics'] });
  }, [key, queries]);
}

export function StatisticsPage(): ReactElement {
  const address = useAddress();
  const { window, listed } = useWindowInAddress(address, useUsualWindow());
  useRefetchWhenMoved(window?.kind === 'unit' && window.which === 'last' ? listed.key : '');
  return formOf(address[0]) === 'lanes' ? <LanesPage address={address} /> : <TablePage address={address} />;
}
