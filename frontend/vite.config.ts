import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react()],
  resolve: { dedupe: ['three', 'react', 'react-dom'] },
  build: { chunkSizeWarningLimit: 1200 },
  server: { proxy: { '/api': { target: 'http://127.0.0.1:8321', ws: true } } },
  test: {
    // On a busy machine a test takes some seconds.
    testTimeout: 60_000,
    environment: 'node',
    setupFiles: ['src/testing/patience.ts'],
    css: true,
  },
});
