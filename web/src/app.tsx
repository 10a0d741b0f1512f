import { MantineProvider, useMantineColorScheme } from '@mantine/core'
import { ModalsProvider } from '@mantine/modals'
import { Notifications } from '@mantine/notifications'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { useEffect } from 'react'
import { createBrowserRouter } from 'react-router'
import { RouterProvider } from 'react-router/dom'
import { usePerson } from './data/queries.ts'
import { WeekPage } from './pages/week.tsx'
import { NoSuchPage, RouteError } from './shell/route-error.tsx'
import { Shell } from './shell/shell.tsx'
import { steps } from './steps/steps.ts'
import { theme } from './theme.ts'

const client = new QueryClient({
  defaultOptions: { queries: { networkMode: 'offlineFirst', retry: 1, staleTime: 5_000 }, mutations: { networkMode: 'always' } },
})

// The first page loads alone; the pages of a trial, with plan, charts and the device's own store, come when opened.
const router = createBrowserRouter([
  {
    Component: Shell,
    ErrorBoundary: RouteError,
    HydrateFallback: () => null,
    children: [
      { index: true, Component: WeekPage },
      { path: 'shelf', lazy: async () => ({ Component: (await import('./pages/shelf.tsx')).ShelfPage }) },
      { path: 'trials/new', lazy: async () => ({ Component: (await import('./pages/new-trial.tsx')).NewTrialPage }) },
      { path: 'trials/import', lazy: async () => ({ Component: (await import('./pages/import.tsx')).ImportPage }) },
      {
        path: 'trials/:trial',
        lazy: async () => ({ Component: (await import('./pages/trial.tsx')).TrialPage }),
        children: [
          { index: true, lazy: async () => ({ Component: (await import('./pages/trial.tsx')).FirstStep }) },
          ...steps.map(({ key, load }) => ({ path: key, lazy: async () => ({ Component: await load() }) })),
        ],
      },
      { path: 'trials/:trial/worksheet', lazy: async () => ({ Component: (await import('./pages/worksheet.tsx')).WorksheetPage }) },
      { path: 'trials/:trial/water', lazy: async () => ({ Component: (await import('./pages/water-plan.tsx')).WaterPlanPage }) },
      { path: 'trials/:trial/sheet', lazy: async () => ({ Component: (await import('./pages/mixing-sheet.tsx')).MixingSheetPage }) },
      { path: 'trials/:trial/stakes', lazy: async () => ({ Component: (await import('./pages/stakes.tsx')).StakesPage }) },
      { path: 'trials/:trial/plan', lazy: async () => ({ Component: (await import('./pages/plan-print.tsx')).PlanPrintPage }) },
      { path: 'w/:trial/:plot', lazy: async () => ({ Component: (await import('./pages/plot-link.tsx')).PlotLinkPage }) },
      { path: 'trials/:trial/report', lazy: async () => ({ Component: (await import('./pages/report.tsx')).ReportPage }) },
      { path: '*', Component: NoSuchPage },
    ],
  },
])

function PersonTheme() {
  const person = usePerson()
  const { setColorScheme } = useMantineColorScheme()
  useEffect(() => setColorScheme(person.theme), [person.theme, setColorScheme])
  return null
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <MantineProvider theme={theme} defaultColorScheme="auto">
        <ModalsProvider>
          <Notifications position="bottom-left" />
          <PersonTheme />
          <RouterProvider router={router} />
        </ModalsProvider>
      </MantineProvider>
    </QueryClientProvider>
  )
}
