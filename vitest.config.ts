import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '~': new URL('./app', import.meta.url).pathname } },
  test: {
    setupFiles: ['./vitest.setup.ts'],
    include: [
      'core/**/*.test.ts',
      'loaders/**/*.test.ts',
      'demo/**/*.test.ts',
      'cli/**/*.test.ts',
      'pool/**/*.test.ts',
      'app/**/*.test.ts',
    ],
    testTimeout: 120_000,
    hookTimeout: 240_000,
    pool: 'forks',
    maxWorkers: 2,
  },
})
