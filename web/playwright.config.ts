import { defineConfig } from '@playwright/test'
import { args, executablePath } from './tests/browser.mjs'

export default defineConfig({
  testDir: 'tests',
  testMatch: '*.spec.ts',
  globalSetup: './tests/ready.ts',
  // Every trial has a server and a file of its own (tests/garden.ts): any two can run at once, in any order.
  fullyParallel: true,
  workers: Number(process.env.MOPSEL_WORKERS ?? 2),
  retries: 0,
  // A machine that is busy or held up for a while is no failure.
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [
    [process.env.MOPSEL_REPORTER ?? 'line'],
    // Beside the results, not among them: a run empties its folder when it begins.
    ['./tests/failed.ts', { file: process.env.MOPSEL_FAILED ?? 'node_modules/.cache/failed.txt' }],
  ],
  use: {
    viewport: { width: 1280, height: 800 },
    // What goes through one is not seen by a trial that cuts the connection; offline.spec.ts lets it be.
    serviceWorkers: 'block',
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: { executablePath, args },
    screenshot: 'only-on-failure',
    // By hand; the whole suite runs what failed once more with one (crates/server/tests/browser.rs).
    trace: process.env.MOPSEL_TRACE ? 'retain-on-failure' : 'off',
  },
})
