import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
  test: {
    include: ['core/src/**/*.test.ts', 'server/src/**/*.test.ts', 'cli/src/**/*.test.ts', 'demo/src/**/*.test.ts', 'web/src/**/*.test.ts'],
    testTimeout: 30000,
    hookTimeout: 30000,
  },
})
