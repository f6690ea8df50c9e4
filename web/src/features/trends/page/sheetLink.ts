/** A link that names a sheet and nothing else opens it as it was saved. */
import type { QueryClient } from '@tanstack/react-query';
import { replace, type LoaderFunctionArgs, type ShouldRevalidateFunction } from 'react-router';
import { sheetsQuery } from '../../../entities/sheets';
import { addressOf } from '../model/document';

interface SheetLink {
  loader: (args: LoaderFunctionArgs) => Promise<Response | null>;
  shouldRevalidate: ShouldRevalidateFunction;
}

/** What the route of trends does before it is drawn. A sheet that is gone leaves the trend without one; while
 * the server does not answer the trend says so itself. */
export function sheetLink(queries: QueryClient): SheetLink {
  return {
    loader: async ({ request }) => {
      const wanted = bareSheet(new URL(request.url));
      if (wanted === null) return null;
      const sheets = await queries.query(sheetsQuery).catch(() => null);
      if (sheets === null) return null;
      const found = sheets.find((one) => one.uid === wanted);
      return replace(found === undefined ? '/trends' : `/trends?${addressOf(found.view, found.uid)}`);
    },
    // A change of the window is no new link.
    shouldRevalidate: ({ nextUrl }) => bareSheet(nextUrl) !== null,
  };
}

function bareSheet(url: URL): string | null {
  return url.searchParams.has('tags') ? null : url.searchParams.get('sheet');
}
