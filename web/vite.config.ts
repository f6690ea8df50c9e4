/// <reference types="vitest/config" />
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

/** What every page needs comes in three files: each file more costs a way to the server. What only some pages need is
 * left out by name. */
const LIBRARIES =
  /node_modules\/(?:react|react-dom|scheduler|react-router|history|@emotion|stylis|hoist-non-react-statics|@tanstack\/(?:query-core|react-query)(?!.*(?:[qQ]ueries|[mM]utation|[iI]nfiniteQuery)(?:Observer)?\.js)|openapi-fetch|zustand)\//;
const LOOK =
  /node_modules\/@mui\/(?:system|utils|private-theming|styled-engine|material\/(?:styles|utils|internal|className|colors|SvgIcon|Alert|Box|Button|ButtonBase|ButtonGroup|IconButton|Link|Paper|Typography|CssBaseline|CircularProgress|transitions|zero-styled))\/(?!.*(?:RovingTabIndex|Transition\.|SwitchBase|svg-icons|mergeSlotProps|useSlotProps|useMediaQuery))/;
const BASE =
  /web\/src\/(?:domain|platform|entities)\/(?!(?:statistics|figures|figureTexts|equipment|records|archives|loggers|sources|formulas|curveQueries|reasons|coverage|merge|sheets|clipboard|stream)\.)[\w-]+\.ts$/;

export default defineConfig({
  // The page says under which path it is served (its base element): what it loads is named relative to that.
  base: './',
  plugins: [react()],
  build: {
    outDir: 'dist',
    sourcemap: false,
    // Which file holds which part, and what it needs: the tests add up what a page loads at first.
    manifest: 'parts.json',
    chunkSizeWarningLimit: 900,
    license: { fileName: 'third-party-notices.md' },
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'libraries', test: LIBRARIES },
            { name: 'look', test: LOOK },
            { name: 'base', test: BASE },
          ],
        },
      },
    },
  },
  server: { host: '127.0.0.1', proxy: { '/api': { target: 'http://127.0.0.1:8080', ws: true } } },
  // One set of modules for all: most of the time would go into importing them again for each file.
  test: { environment: 'node', isolate: false, include: ['src/**/*.test.{ts,tsx}'] },
});
