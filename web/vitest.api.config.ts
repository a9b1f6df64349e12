import { defineConfig } from 'vitest/config'

/** The API's description against a running server, which a cargo test starts. */
export default defineConfig({ test: { include: ['tests/api/**/*.test.ts'], testTimeout: 300_000 } })
