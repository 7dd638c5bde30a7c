import { defineConfig } from '@playwright/test'

// Tests have a browser's context in common, emptied between them: what it has compiled of the
// core once is there for the next one. Those that need another one make it themselves.
process.env.PW_TEST_REUSE_CONTEXT ??= '1'

export default defineConfig({
  testDir: '.',
  globalSetup: './setup.ts',
  timeout: 420_000,
  expect: { timeout: 45_000 },
  workers: 2,
  retries: process.env.CI ? 1 : 0, // pictures are drawn in software there; a second failure counts
  reporter: [['list'], ['./timing.ts']],
  outputDir: 'test-results',
  projects: [
    { name: 'journeys', testMatch: /.*\.spec\.ts/ },
    { name: 'screenshots', testMatch: /screenshots\.ts/, use: { deviceScaleFactor: 1 } },
    { name: 'profile', testMatch: /profile\.ts/, use: { trace: 'off', deviceScaleFactor: 1 } }, // a trace would be measured too
  ],
  use: {
    viewport: { width: 1280, height: 800 },
    deviceScaleFactor: 0.5, // software draws a quarter of the pixels; what compares them one by one takes them all
    actionTimeout: 45_000,
    navigationTimeout: 60_000,
    trace: 'on-first-retry', // recording takes a third of the time
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu-compositing', // of the page over the 3D, most of what software graphics did
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--disable-gpu-rasterization', // of the page, whose software stand-in is slow; 3D is not touched by it
        '--use-gl=angle',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
      ],
    },
  },
})
