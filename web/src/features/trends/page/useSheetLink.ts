/** A link that names a sheet and nothing else opens it as it was saved. */
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { sheetsQuery } from '../../../entities/sheets';
import { addressOf } from '../model/document';

/** Puts the view of a saved sheet into the address that says its bare name; false until it is there. A sheet that is
 * gone leaves the trend without one; while the server does not answer the trend says so itself. */
export function useSheetLink(address: URLSearchParams): boolean {
  const wanted = bareSheet(address);
  const { data: sheets, isError } = useQuery({ ...sheetsQuery, enabled: wanted !== null, retry: false });
  const navigate = useNavigate();
  useEffect(() => {
    if (wanted === null || sheets === undefined) return;
    const found = sheets.find((one) => one.uid === wanted);
    const search = found === undefined ? '' : `?${addressOf(found.view, found.uid)}`;
    void navigate({ search }, { replace: true });
  }, [wanted, sheets, navigate]);
  return wanted === null || isError;
}

function bareSheet(address: URLSearchParams): string | null {
  return address.has('tags') ? null : address.get('sheet');
}
