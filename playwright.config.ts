import { defineConfig } from '@playwright/test'

const PORT = 4871
/** What measures, or counts the processes of the server, has the machine to itself. */
const ALONE = ['measured*.spec.ts', 'server.spec.ts', 'queue.spec.ts']

export default defineConfig({
  testDir: 'e2e',
  timeout: 180_000,
  expect: { timeout: 12_000 },
  // a machine that draws in software and changes its speed may miss a moment
  retries: 1,
  workers: 2,
  fullyParallel: true,
  // what is measured runs alone, after everything else
  projects: [
    { name: 'window', testIgnore: ALONE },
    { name: 'measured', testMatch: ALONE, dependencies: ['window'], workers: 1 },
  ],
  reporter: [['list']],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    acceptDownloads: true,
    // what works without the server is tested on its own
    serviceWorkers: 'block',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        // without a GPU the page itself is painted faster by the CPU
        '--disable-gpu-compositing',
        '--ignore-gpu-blocklist',
      ],
    },
  },
  webServer: {
    command: 'node --import ./e2e/light-demo.mjs .output/server/index.mjs',
    url: `http://127.0.0.1:${PORT}/api/health`,
    reuseExistingServer: false,
    env: { HOST: '127.0.0.1', NITRO_HOST: '127.0.0.1', PORT: String(PORT), NITRO_PORT: String(PORT) },
  },
})
