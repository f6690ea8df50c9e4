import '@fontsource/b612/400.css';
import '@fontsource/b612/700.css';
import '@fontsource/b612-mono/400.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app/App';

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');

/** A canvas does not load fonts by itself: its texts would stay in the fallback. */
void Promise.all([document.fonts.load('12px B612'), document.fonts.load('bold 12px B612')]).finally(() => {
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
});
