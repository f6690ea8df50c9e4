import { CssBaseline, ThemeProvider } from '@mui/material';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState, type ReactElement } from 'react';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { configuration, served } from '../platform/configuration';
import { mayPass } from '../platform/errors';
import { ThemeChoiceContext } from '../ui/themeContext';
import { tokensOf, type ThemeName } from '../ui/tokens';
import { NoPage, PageFailed } from './Pages';
import { Shell } from './Shell';
import { makeTheme } from '../ui/theme';

document.title = configuration.brand.name;
const STORED = 'cronaca.theme';

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => mayPass(error) && count < 3,
      refetchOnWindowFocus: false,
    },
  },
});

const router = createBrowserRouter(
  [
    {
      element: <Shell />,
      // What a sheet's link waits for is under way: nothing is shown in between.
      HydrateFallback: () => null,
      children: [
        {
          errorElement: <PageFailed />,
          children: [
            // What is not opened is not loaded.
            {
              path: '/trends',
              lazy: async () => {
                const { TrendPage, sheetLink } = await import('../features/trends');
                return { Component: TrendPage, ...sheetLink(queries) };
              },
            },
            {
              path: '/trends/beside',
              lazy: async () => ({ Component: (await import('../features/trends')).BesidePage }),
            },
            {
              path: '/records',
              lazy: async () => ({ Component: (await import('../features/records')).RecordsPage }),
            },
            {
              path: '/statistics',
              lazy: async () => ({ Component: (await import('../features/statistics')).StatisticsPage }),
            },
            { path: '/runs', lazy: async () => ({ Component: (await import('../features/runs')).RunsPage }) },
            {
              path: '/files',
              lazy: async () => ({ Component: (await import('../features/files')).FilesPage }),
            },
            {
              path: '/setup/*',
              lazy: async () => ({ Component: (await import('../features/setup')).SetupPages }),
            },
            { path: '/', element: <Navigate to="/trends" replace /> },
            { path: '*', element: <NoPage /> },
          ],
        },
      ],
    },
  ],
  { basename: served('/') },
);

function firstTheme(): ThemeName {
  const stored = localStorage.getItem(STORED);
  if (stored === 'day' || stored === 'night') return stored;
  return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day';
}

export function App(): ReactElement {
  const [name, setName] = useState<ThemeName>(firstTheme);
  const toggle = useCallback(() => setName((now) => (now === 'day' ? 'night' : 'day')), []);
  const tokens = useMemo(() => tokensOf(name, configuration.brand), [name]);
  const theme = useMemo(() => makeTheme(name, tokens), [name, tokens]);
  const choice = useMemo(() => ({ name, tokens, toggle }), [name, tokens, toggle]);
  useEffect(() => localStorage.setItem(STORED, name), [name]);
  return (
    <ThemeChoiceContext value={choice}>
      <ThemeProvider theme={theme}>
        <CssBaseline />
        <QueryClientProvider client={queries}>
          {/* A page that draws live values may keep a transition waiting for seconds: what somebody does meanwhile would
              be taken back when it comes. */}
          <RouterProvider router={router} useTransitions={false} />
        </QueryClientProvider>
      </ThemeProvider>
    </ThemeChoiceContext>
  );
}
