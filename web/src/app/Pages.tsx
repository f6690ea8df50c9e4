/** What stands in the place of a page that failed, or that there is none of. */
import type { ReactElement } from 'react';
import { useRouteError } from 'react-router';
import { Failed, NoSuchPage } from '../ui';
import { SECTIONS } from '../domain/pages';

export function PageFailed(): ReactElement {
  const error = useRouteError();
  return <Failed what="This page" error={error} onAgain={() => window.location.reload()} />;
}

export function NoPage(): ReactElement {
  return <NoSuchPage ways={SECTIONS.map(({ path, name }) => [path, name] as const)} />;
}
