import { defineConfig } from '@playwright/test';

/** One end-to-end spec against the Navvy that `./navvy test` has started for it, a test at a time: they build on each other, and trials measure. */
export default defineConfig({
  testDir: './tests',
  globalTeardown: './tests/wholeBundle.ts',
  workers: 1,
  forbidOnly: true,
  // As long as a machine of a third of the speed needs: a wait that is met costs nothing.
  timeout: 300_000,
  expect: { timeout: 120_000 },
  reporter: [
    ['list'],
    ['json', { outputFile: `${process.env.NAVVY_HOME ?? '.navvy-test'}/playwright.json` }],
  ],
  outputDir: `${process.env.NAVVY_HOME ?? '.navvy-test'}/playwright`,
  use: {
    baseURL: process.env.NAVVY_ADDRESS ?? 'http://127.0.0.1:4600',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
