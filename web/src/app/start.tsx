import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { configuration } from '../platform/configuration';
import { App } from './App';
import { loadPage } from './Pages';

/** Once the page of the address is here all is drawn in one go. */
export async function start(root: HTMLElement): Promise<void> {
  await loadPage(window.location.pathname.slice(configuration.base.length));
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
