import { Outlet, ScrollRestoration } from 'react-router'
import { useLiveChanges } from '../data/live-changes.ts'
import { NewVersion } from './new-version.tsx'
import { ShortcutKeys } from './shortcut-keys.tsx'

/** Around every page: live changes, keys, and word of a new version. Each page brings its own head line. */
export function Shell() {
  useLiveChanges()
  return (
    <>
      <a href="#main" className="visually-hidden skip-link">
        Skip to the page
      </a>
      <Outlet />
      <ShortcutKeys />
      <NewVersion />
      <ScrollRestoration />
    </>
  )
}
