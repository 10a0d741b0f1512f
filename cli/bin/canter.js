#!/usr/bin/env node
import { existsSync } from 'node:fs'

const built = new URL('../dist/main.js', import.meta.url)
if (!existsSync(built)) {
  console.error('canter is not built yet. Run: node setup.mjs build')
  process.exit(2)
}
await import(built.href)
