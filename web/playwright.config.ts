import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests',
  timeout: 180_000,
  expect: { timeout: 25_000 },
  workers: 1,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: `${process.env.LARK_RESULTS ?? 'test-results'}/browser.json` }]],
  use: {
    baseURL: process.env.LARK_URL ?? 'http://127.0.0.1:4180',
    viewport: { width: 1280, height: 800 },
    timezoneId: 'America/Denver',
    locale: 'en-US',
    launchOptions: {
      executablePath: process.env.LARK_CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
});
