import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['tests/**/*.e2e.ts'],
    testTimeout: 900_000,
    hookTimeout: 900_000,
    expect: { poll: { timeout: 20_000 } },
    fileParallelism: false,
    bail: 1,
    reporters: ['verbose'],
  },
})
