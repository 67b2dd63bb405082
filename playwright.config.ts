import { defineConfig } from '@playwright/test'
import { BROWSER } from '#tests/browser.ts'

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: '.cache/e2e',
  timeout: 90_000,
  workers: 2,
  fullyParallel: false,
  retries: 0,
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    permissions: ['microphone'],
    launchOptions: BROWSER,
    trace: 'retain-on-failure',
  },
})
