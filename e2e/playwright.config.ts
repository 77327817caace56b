import { defineConfig } from '@playwright/test';

/** Debian's headless Chromium with software drawing; files of tests side by side, each with a server and data of its own. */
export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  workers: 2,
  timeout: 600_000,
  expect: { timeout: 45_000 },
  reporter: [['list']],
  outputDir: '../test-results',
  use: {
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
