import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
  test: {
    include: ['{core,server,cli,demo}/test/**/*.test.ts'],
    testTimeout: 30000,
    hookTimeout: 30000,
  },
})
