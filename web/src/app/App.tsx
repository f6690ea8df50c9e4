import { CssBaseline } from '@mui/material';
import { ThemeProvider } from '@mui/system';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createBrowserHistory } from 'history';
import { useCallback, useEffect, useMemo, useState, type ReactElement } from 'react';
import { configuration, served } from '../platform/configuration';
import { mayPass } from '../platform/errors';
import { ThemeChoiceContext } from '../ui/themeContext';
import { tokensOf, type ThemeName } from '../ui/tokens';
import { HistoryRouter } from '../platform/router';
import { Pages } from './Pages';
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

const history = createBrowserHistory();

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
          <HistoryRouter history={history} basename={served('/')}>
            <Pages />
          </HistoryRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </ThemeChoiceContext>
  );
}
