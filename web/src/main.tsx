/** What is needed to draw is under way before the program is: fonts, first answers. */
import '@fontsource/b612/400.css';
import '@fontsource/b612/700.css';
import '@fontsource/b612-mono/400.css';
import { served } from './platform/configuration';

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');

/** A canvas does not load fonts by itself: its texts would stay in the fallback. */
const fonts = Promise.all([document.fonts.load('12px B612'), document.fonts.load('bold 12px B612')]);
/** The files of the program are on their way by the page itself; what a trend needs of the server is asked for before
 * their code takes its time. */
async function loadProgram(): Promise<typeof import('./app/start')> {
  // The address without a path leads to the trends, too.
  if (![served('/trends'), served('/')].includes(window.location.pathname)) return import('./app/start');
  try {
    const { beginTrend } = await import('./features/trends/early');
    void beginTrend(window.location.search, window.innerWidth);
  } catch {
    // What does not come early is asked for by the page itself.
  }
  void import('./features/trends');
  return import('./app/start');
}

void Promise.all([loadProgram(), fonts.catch(() => undefined)]).then(([{ start }]) => start(root));
