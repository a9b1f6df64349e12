import { defineConfig } from 'vitest/config'

/** What the pages are made of, without a browser; started by a cargo test, as the browser's suite is. */
export default defineConfig({
  test: {
    include: ['tests/unit/**/*.test.ts'],
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://127.0.0.1:4180/' } },
    setupFiles: ['tests/unit/setup.ts'],
    testTimeout: 240_000,
  },
})
