/// <reference types="vitest/config" />
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

/** What every page needs comes in three files: each file more costs a way to the server. */
const LIBRARIES =
  /node_modules\/(?:react|react-dom|scheduler|react-router|@emotion|stylis|@tanstack\/(?:query-core|react-query)|openapi-fetch|zustand|use-sync-external-store)\//;
const LOOK =
  /node_modules\/@mui\/(?:system|utils|private-theming|styled-engine|material\/(?:styles|utils|internal|className|colors|SvgIcon|Box|Button|ButtonBase|ButtonGroup|IconButton|Typography|CssBaseline|CircularProgress|transitions|zero-styled))\//;
const BASE = /web\/src\/(?:domain|platform|entities)\/[\w-]+\.ts$/;

export default defineConfig({
  // The page says under which path it is served (its base element): what it loads is named relative to that.
  base: './',
  plugins: [react()],
  build: {
    outDir: 'dist',
    sourcemap: false,
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
