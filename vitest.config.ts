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
    // against hanging alone: how long a test takes is the machine's affair, and no test says otherwise
    testTimeout: 900_000,
    hookTimeout: 900_000,
    expect: { poll: { timeout: 300_000 } },
    maxWorkers: 2,
  },
})
