/// <reference types="vitest/config" />
import react from '@vitejs/plugin-react';
import { existsSync, readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { defineConfig, type Plugin } from 'vite';

/** What every page needs comes in few files: each file more costs a way to the server. What only some pages need is
 * left out by name. */
const LIBRARIES =
  /node_modules\/(?:react|react-dom|scheduler|react-router|history|@emotion|stylis|hoist-non-react-statics|@tanstack\/(?:query-core|react-query)(?!.*(?:[qQ]ueries|[mM]utation|[iI]nfiniteQuery)(?:Observer)?\.js)|openapi-fetch|zustand)\//;
const LOOK =
  /node_modules\/@mui\/(?:system|utils|private-theming|styled-engine|material\/(?:styles|utils|internal|className|colors|SvgIcon|Alert|Box|Button|ButtonBase|ButtonGroup|IconButton|Link|Paper|Typography|CssBaseline|CircularProgress|transitions|zero-styled))\/(?!.*(?:RovingTabIndex|Transition\.|SwitchBase|svg-icons|mergeSlotProps|useSlotProps|useMediaQuery))/;
/** Our own parts that stand on every page, and all icons that are used: each by itself would be a file. */
const PARTS =
  /web\/src\/ui\/(?:Panel|pageActions|Boundary|lazyPart|themeContext|tokens|timerail\/\w+|CopyButton)\.tsx?$|node_modules\/@mui\/icons-material\//;
/** What can ask the server before any library is here. */
const FIRST =
  /web\/src\/(?:domain\/(?:fill|time|windows|zone|format|durations|numbers)|platform\/(?:configuration|request|session|errors)|entities\/(?:curves|namedWindow|defaultTags))\.ts$|web\/src\/texts\/\w+\/refusals\.json$/;
const BASE =
  /web\/src\/(?:domain|platform|entities)\/(?!(?:statistics|reports|figures|figureTexts|equipment|records|archives|loggers|sources|formulas|curveQueries|coverage|merge|sheets|clipboard|stream|trail|trailPath)\.)[\w-]+\.ts$/;

/** A curve and its axes; a picture as a file is another matter. */
const CHART = /web\/src\/chart\/(?!vector)|node_modules\/uplot\//;

/** The page names what it begins with, so that nothing of it waits for the first file to be read. */
const preloadsStart: Plugin = {
  name: 'preloads-start',
  transformIndexHtml: {
    order: 'post',
    handler: (html, { bundle = {} }) => {
      const start = Object.values(bundle).find((one) => one.type === 'chunk' && one.name === 'start');
      if (start?.type !== 'chunk') return [];
      const files = [...start.imports, start.fileName].filter((file) => !html.includes(file));
      return files.map((file) => ({
        tag: 'link',
        attrs: { rel: 'modulepreload', crossorigin: true, href: `./${file}` },
        injectTo: 'head' as const,
      }));
    },
  },
};

const TEXTS = `${import.meta.dirname}/src/texts`;
/** The language that is built: one with a folder of its own beside the English texts. */
const LANGUAGE = process.env['CRONACA_LANGUAGE'] ?? 'en';

/** What the folder of another language has of a file takes the place of the English; what it lacks stays English. */
const inItsLanguage: Plugin = {
  name: 'in-its-language',
  enforce: 'pre',
  load(id) {
    const other = `${TEXTS}/${LANGUAGE}/${basename(id)}`;
    if (LANGUAGE === 'en' || !id.startsWith(`${TEXTS}/en/`) || !existsSync(other)) return null;
    const [english, translated] = [id, other].map((file) => JSON.parse(readFileSync(file, 'utf8')) as object);
    return JSON.stringify({ ...english, ...translated });
  },
  transformIndexHtml: (html) => html.replace('lang="en"', `lang="${LANGUAGE}"`),
};

export default defineConfig({
  // The page says under which path it is served (its base element): what it loads is named relative to that.
  base: './',
  plugins: [react(), inItsLanguage, preloadsStart],
  resolve: {
    alias: [
      { find: 'texts', replacement: `${TEXTS}/en` },
      // Its entry for everybody is the one for development, with warnings.
      {
        find: /^react-router$/,
        replacement: `${import.meta.dirname}/node_modules/react-router/dist/production/index.mjs`,
      },
      // What the component library has for themes and effects that ours are without.
      { find: /^\.\/TouchRipple\.mjs$/, replacement: `${import.meta.dirname}/src/ui/NoRipple.tsx` },
      {
        find: /^\.\/createThemeWithVars\.mjs$/,
        replacement: `${import.meta.dirname}/src/ui/NoCssVariables.ts`,
      },
    ],
  },
  build: {
    outDir: 'dist',
    sourcemap: false,
    // Which file holds which part, and what it needs: the tests add up what a page loads at first.
    manifest: 'parts.json',
    chunkSizeWarningLimit: 900,
    license: { fileName: 'third-party-notices.md' },
    rolldownOptions: {
      // Only a part of the styling library that is not used here needs it.
      treeshake: { moduleSideEffects: [{ test: /hoist-non-react-statics/, sideEffects: false }] },
      // A text goes to where it is used: a page loads no text of another one, and no name of any.
      optimization: { inlineConst: { mode: 'all', pass: 2 } },
      output: {
        codeSplitting: {
          groups: [
            { name: 'libraries', test: LIBRARIES },
            { name: 'look', test: new RegExp(`${LOOK.source}|${PARTS.source}`) },
            { name: 'first', test: FIRST },
            { name: 'base', test: BASE },
            { name: 'chart', test: CHART },
          ],
        },
      },
    },
  },
  server: { host: '127.0.0.1', proxy: { '/api': { target: 'http://127.0.0.1:8080', ws: true } } },
  // One set of modules for all: most of the time would go into importing them again for each file.
  test: { environment: 'node', isolate: false, include: ['src/**/*.test.{ts,tsx}'] },
});
