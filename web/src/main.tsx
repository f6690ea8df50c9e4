/** What is needed to draw is under way before the program is: fonts, first answers. */
import '@fontsource/b612/400.css';
import '@fontsource/b612/700.css';
import '@fontsource/b612-mono/400.css';
import { served } from './platform/configuration';

const root = document.getElementById('root');
if (root === null) throw new Error('index.html has no #root');

/** A canvas does not load fonts by itself: its texts would stay in the fallback. */
const fonts = Promise.all([document.fonts.load('12px B612'), document.fonts.load('bold 12px B612')]);
const program = import('./app/start');
if (window.location.pathname === served('/trends')) {
  // What does not come early is asked for by the page itself.
  import('./features/trends/early')
    .then(({ beginTrend }) => beginTrend(window.location.search, window.innerWidth))
    .catch(() => undefined);
  void import('./features/trends');
}
void Promise.all([program, fonts.catch(() => undefined)]).then(([{ start }]) => start(root));
