import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '~': new URL('./app', import.meta.url).pathname } },
  test: {
    setupFiles: ['./vitest.setup.ts'],
    testTimeout: 120_000,
    hookTimeout: 240_000,
    pool: 'forks',
    maxWorkers: 2,
    projects: [
      {
        extends: true,
        test: {
          // nothing here keeps anything between tests: one process for all keeps the code it has compiled
          name: 'core',
          isolate: false,
          include: ['core', 'loaders', 'demo', 'cli', 'pool'].map(room => `${room}/**/*.test.ts`),
        },
      },
      // these stand in for parts of the browser, each in its own way
      { extends: true, test: { name: 'app', include: ['app/**/*.test.ts'] } },
    ],
  },
})
