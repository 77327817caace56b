import { defineConfig } from '@playwright/test';

/** Debian's headless Chromium with software drawing; one at a time, as a person would. */
export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  workers: 1,
  timeout: 600_000,
  expect: { timeout: 45_000 },
  reporter: [['list']],
  outputDir: '../test-results',
  use: {
    baseURL: `http://127.0.0.1:${process.env.E2E_PORT ?? 4399}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    actionTimeout: 45_000,
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
        '--disable-quic',
      ],
    },
  },
});
