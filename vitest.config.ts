import { resolve } from 'node:path';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { alias: { '@': resolve(import.meta.dirname, 'web/src') } },
  test: {
    include: ['core/**/*.test.ts', 'cli/**/*.test.ts', 'demo/**/*.test.ts', 'web/src/**/*.test.ts'],
    testTimeout: 240_000,
    hookTimeout: 240_000,
    // One core fewer is the default, which of two leaves one.
    maxWorkers: '100%',
  },
});
