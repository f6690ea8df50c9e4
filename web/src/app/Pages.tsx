/** The pages of the sections: each is loaded when it is opened, or a moment before. */
import { Typography } from '@mui/material';
import { keyframes } from '@mui/material/styles';
import type { ReactElement } from 'react';
import { matchPath, Navigate, Route, Routes } from 'react-router';
import * as wording from 'texts/app.json';
import { NoSuchPage } from '../ui';
import { SECTIONS } from '../domain/pages';
import { lazyPart, type LazyPart } from '../ui/lazyPart';
import { Shell } from './Shell';

const shown = keyframes({ from: { opacity: 0 }, to: { opacity: 1 } });

/** What stands there on a slow way to the server; where the page is there at once nobody sees it. */
const MEANWHILE = (
  <Typography sx={{ p: 3, opacity: 0, animation: `${shown} 0s linear 400ms forwards` }}>
    {wording.loading}
  </Typography>
);

const trends = (): Promise<typeof import('../features/trends')> => import('../features/trends');
const Trend = lazyPart(wording.theTrend, async () => (await trends()).TrendPage, MEANWHILE);
const Beside = lazyPart(wording.twoSheetsSideBySide, async () => (await trends()).besidePage(), MEANWHILE);
const Statistics = lazyPart(
  wording.thePageOfStatistics,
  async () => (await import('../features/statistics')).StatisticsPage,
  MEANWHILE,
);
const Samples = lazyPart(
  wording.thePageOfSamples,
  async () => (await import('../features/samples')).SamplesPage,
  MEANWHILE,
);
const Records = lazyPart(
  wording.thePageOfRecords,
  async () => (await import('../features/records')).RecordsPage,
  MEANWHILE,
);
const Runs = lazyPart(
  wording.thePageOfRuns,
  async () => (await import('../features/runs')).RunsPage,
  MEANWHILE,
);
const Files = lazyPart(
  wording.thePageOfFiles,
  async () => (await import('../features/files')).FilesPage,
  MEANWHILE,
);
const Setup = lazyPart(
  wording.theSetUp,
  async () => (await import('../features/setup')).SetupPages,
  MEANWHILE,
);

/** Where the address without a path leads. */
const FIRST = '/trends';

/** The page at each path; `/*`: it has pages below. */
const PAGES: readonly (readonly [string, LazyPart<object>])[] = [
  [FIRST, Trend],
  ['/trends/beside', Beside],
  ['/statistics', Statistics],
  ['/samples', Samples],
  ['/records', Records],
  ['/runs', Runs],
  ['/files', Files],
  ['/setup/*', Setup],
];

/** Loads what the page at this path needs; where that fails the page says so itself. */
export async function loadPage(pathname: string): Promise<void> {
  const wanted = pathname === '/' ? FIRST : pathname;
  const found = PAGES.find(([path]) => matchPath(path, wanted) !== null);
  await found?.[1].load().catch(() => undefined);
}

function NoPage(): ReactElement {
  return <NoSuchPage ways={SECTIONS.map(({ path, name }) => [path, name] as const)} />;
}

/** Top bar, time rail, and the page of the address between them. */
export function Pages(): ReactElement {
  return (
    <Routes>
      <Route element={<Shell onTurnedTo={(path) => void loadPage(path)} />}>
        {PAGES.map(([path, Page]) => (
          <Route key={path} path={path} element={<Page />} />
        ))}
        <Route path="/" element={<Navigate to={FIRST} replace />} />
        <Route path="*" element={<NoPage />} />
      </Route>
    </Routes>
  );
}
