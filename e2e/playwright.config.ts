import { defineConfig } from '@playwright/test'

const flags = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

export default defineConfig({
  testDir: '.',
  testMatch: '*.journey.ts',
  outputDir: '../test-results',
  // A slow machine is no fault of the product: what must be fast is measured by the bench.
  timeout: 300_000,
  expect: { timeout: 90_000 },
  workers: 2,
  fullyParallel: true,
  reporter: [['line'], ...(process.env['CANTER_REPORT'] ? [['json', { outputFile: process.env['CANTER_REPORT'] }] as const] : [])] as never,
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    colorScheme: 'light',
    acceptDownloads: true,
    trace: 'retain-on-failure',
    launchOptions: { executablePath: process.env['CANTER_CHROMIUM'] ?? '/usr/bin/chromium', args: flags },
  },
})
