import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: [
      'core/**/*.test.ts',
      'engine/**/*.test.ts',
      'cli/**/*.test.ts',
      'demo/**/*.test.ts',
      'app/**/*.test.ts',
      'tests/**/*.test.ts',
    ],
    testTimeout: 900_000,
    hookTimeout: 900_000,
    maxWorkers: 2,
  },
})
