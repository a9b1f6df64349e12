import { defineConfig } from '@playwright/test'
import { args, executablePath } from './tests/browser.mjs'

export default defineConfig({
  testDir: 'tests',
  testMatch: '*.spec.ts',
  workers: 1,
  // A machine that is busy or held up for a while is no failure.
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: 'line',
  use: {
    baseURL: process.env.MOPSEL_DEMO ?? 'http://127.0.0.1:4180',
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: { executablePath, args },
  },
})
