/// <reference types="vitest/config" />
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  // The page says under which path it is served (its base element): what it loads is named relative to that.
  base: './',
  plugins: [react()],
  build: {
    outDir: 'dist',
    sourcemap: false,
    chunkSizeWarningLimit: 900,
    license: { fileName: 'third-party-notices.md' },
  },
  server: { host: '127.0.0.1', proxy: { '/api': { target: 'http://127.0.0.1:8080', ws: true } } },
  // One set of modules for all: most of the time would go into importing them again for each file.
  test: { environment: 'node', isolate: false, include: ['src/**/*.test.{ts,tsx}'] },
});
