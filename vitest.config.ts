import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { conditions: ['source'] },
  ssr: { resolve: { conditions: ['source'] } },
  test: {
    include: ['{core,server,cli,demo}/test/**/*.test.ts', 'trials/*.test.mjs'],
    setupFiles: ['core/test/seed.ts', 'core/test/claims/heard.ts'],
    testTimeout: 180000,
    hookTimeout: 120000,
  },
})
