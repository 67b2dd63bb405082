import { defineConfig } from '@playwright/test'
import { BROWSER } from '#tests/support/browser.ts'

export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: '.cache/e2e',
  // a machine that is busy with other things is slow, not wrong: these bounds only end what will never come
  timeout: 600_000,
  expect: { timeout: 90_000 },
  workers: 2,
  fullyParallel: false,
  // a second try tells what was slow from what is wrong; what needed one fails the run all the same, unless it is listed with a reason
  retries: 1,
  // journeys wait for pages more than for processors: three at a time (run-tests) leave none of the two idle; a microphone's sound does not wait.
  // Sound that is captured is compared to the sample: nothing may take the processor from the browser's microphone meanwhile
  projects: [
    { name: 'journeys', testIgnore: /recording\// },
    { name: 'recording', testMatch: /recording\//, testIgnore: /straight-through|capture-stall/, dependencies: ['journeys'] },
    { name: 'capture', testMatch: /straight-through|capture-stall/, dependencies: ['recording'] },
  ],
  use: {
    // what cannot be clicked by then never can
    actionTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    permissions: ['microphone'],
    launchOptions: BROWSER,
    trace: process.env.LECTERN_TRACE ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
  },
})
