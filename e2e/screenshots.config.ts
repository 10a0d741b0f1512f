import type { PlaywrightTestConfig } from '@playwright/test'
import base from './playwright.config.ts'

/** Makes the pictures of docs/screenshots anew from the demonstration. */
const config: PlaywrightTestConfig = { ...base, testMatch: '*.picture.ts', workers: 1, reporter: [['line']] }
export default config
