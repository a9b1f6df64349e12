import { defineConfig } from 'vitest/config'

/** The API's description against the running program. */
export default defineConfig({
  test: {
    include: ['tests/api/**/*.test.ts'],
    globalSetup: './tests/ready.ts',
    testTimeout: 900_000,
    hookTimeout: 60_000,
  },
})
