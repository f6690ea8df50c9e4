/** A link that names a sheet and nothing else opens it as it was saved. */
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo } from 'react';
import { useNavigate } from 'react-router';
import { sheetsQuery } from '../../../entities/sheets';
import { addressOf } from '../model/document';

/** What the address says, with the saved sheet in the place of its bare name; null while that is being read. The
 * address says the whole from then on. A sheet that is gone leaves the trend without one; while the server does not
 * answer the trend says so itself. */
export function useSheetLink(address: URLSearchParams): URLSearchParams | null {
  const wanted = bareSheet(address);
  const { data: sheets, isError } = useQuery({ ...sheetsQuery, enabled: wanted !== null, retry: false });
  const navigate = useNavigate();
  const meant = useMemo(() => {
    if (wanted === null || isError) return address;
    if (sheets === undefined) return null;
    const found = sheets.find((one) => one.uid === wanted);
    return new URLSearchParams(found === undefined ? '' : addressOf(found.view, found.uid));
  }, [address, wanted, sheets, isError]);
  useEffect(() => {
    if (meant !== null && meant !== address)
      void navigate({ search: `?${meant.toString()}` }, { replace: true });
  }, [meant, address, navigate]);
  return meant;
}

function bareSheet(address: URLSearchParams): string | null {
  return address.has('tags') ? null : address.get('sheet');
}
