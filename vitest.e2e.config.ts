import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['tests/**/*.e2e.ts'],
    // against hanging alone: how long a test takes is the machine's affair, and no test says otherwise
    testTimeout: 900_000,
    hookTimeout: 900_000,
    expect: { poll: { timeout: 300_000 } },
    fileParallelism: false,
    bail: 1,
    reporters: ['verbose'],
  },
})
