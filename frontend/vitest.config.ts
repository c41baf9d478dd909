import { defineConfig } from 'vitest/config'

export default defineConfig({
  // A busy machine takes its time.
  test: { testTimeout: 30_000, environment: 'happy-dom', include: ['tests/**/*.test.ts'] },
})
