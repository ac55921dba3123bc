import { defineConfig } from '@playwright/test';

/** End-to-end tests against a Navvy that `./navvy test` has started. One at a time, since trials measure; after them, two at a time, those that look at pages. */
export default defineConfig({
  testDir: './tests',
  workers: 2,
  projects: [
    { name: 'paths', testIgnore: '9-access.spec.ts', workers: 1 },
    { name: 'access', testMatch: '9-access.spec.ts', fullyParallel: true, dependencies: ['paths'] },
  ],
  timeout: 180_000,
  expect: { timeout: 60_000 },
  reporter: [['list'], ['json', { outputFile: `${process.env.NAVVY_HOME ?? '.navvy-test'}/playwright.json` }]],
  outputDir: `${process.env.NAVVY_HOME ?? '.navvy-test'}/playwright`,
  use: {
    baseURL: process.env.NAVVY_ADDRESS ?? 'http://127.0.0.1:4600',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
});
