import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { configuration } from '../platform/configuration';
import { App } from './App';
import { loadPage } from './Pages';

export function start(root: HTMLElement): void {
  loadPage(window.location.pathname.slice(configuration.base.length));
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
