import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import './styles.css'

import { QueryClient } from '@tanstack/react-query'
import { PersistQueryClientProvider } from '@tanstack/react-query-persist-client'
import { type ComponentType, lazy, StrictMode, Suspense } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'

import { sendBeforeLeaving } from './api/leaving'
import { holdStillWhilePressed } from './api/pressed'
import { CallFrame } from './features/call/CallFrame'
import { Door } from './features/door/Door'
import { isFromTheFuture, isKept, persister } from './offline/pages'
import { BrokenPage } from './shared/BrokenPage'
import { applyColours } from './shared/colours'
import { Frame } from './shared/Frame'
import { Loading } from './shared/states'

type Page = Promise<{ default: ComponentType }>

/** A page whose forms are the component library's; the list and the workbench paint without waiting for it. */
const withForms = (load: () => Page) =>
  lazy(async () => {
    const [{ Themed }, { default: Page }] = await Promise.all([import('./shared/Themed'), load()])
    return {
      default: () => (
        <Themed>
          <Page />
        </Themed>
      ),
    }
  })

const CallsPage = lazy(() => import('./features/calls/CallsPage'))
const NewCallPage = withForms(() => import('./features/calls/NewCallPage'))
const WorkbenchPage = lazy(() => import('./features/workbench/WorkbenchPage'))
const QuickReadPage = withForms(() => import('./features/quickRead/QuickReadPage'))
const WhatIfPage = withForms(() => import('./features/whatIf/WhatIfPage'))
const PanelPage = withForms(() => import('./features/panel/PanelPage'))
const HeaterPage = withForms(() => import('./features/heater/HeaterPage'))
const TimingPage = withForms(() => import('./features/timing/TimingPage'))
const FeedsPage = withForms(() => import('./features/feeds/FeedsPage'))
const CircuitPage = withForms(() => import('./features/circuit/CircuitPage'))
const RatingsPage = withForms(() => import('./features/ratings/RatingsPage'))
const RepairPage = withForms(() => import('./features/repair/RepairPage'))
const SafePage = withForms(() => import('./features/repair/SafePage'))
const ProvePage = withForms(() => import('./features/prove/ProvePage'))
const HandOverPage = withForms(() => import('./features/handOver/HandOverPage'))
const BoardPage = withForms(() => import('./features/board/BoardPage'))
const LoadTestsPage = withForms(() => import('./features/loadTest/LoadTestsPage'))
const CallPage = withForms(() => import('./features/call/CallPage'))
const EquipmentListPage = withForms(() => import('./features/equipment/EquipmentListPage'))
const EquipmentPage = withForms(() => import('./features/equipment/EquipmentPage'))
const SitePage = withForms(() => import('./features/equipment/SitePage'))
const CalculatorsPage = withForms(() => import('./features/bench/BenchPage'))
const TablesPage = withForms(() => import('./features/bench/TablesPage'))
const JoinPage = withForms(() => import('./features/door/JoinPage'))
const AccountPage = withForms(() => import('./features/door/AccountPage'))
const PeoplePage = withForms(() => import('./features/people/PeoplePage'))
const LogPage = lazy(() => import('./features/people/LogPage'))
const HelpPage = withForms(() => import('./features/help/HelpPage'))
const NowherePage = withForms(() => import('./shared/NowherePage'))

const later = (page: React.ReactNode) => <Suspense fallback={<Loading what="the page" />}>{page}</Suspense>

const router = createBrowserRouter([
  {
    element: <Frame />,
    errorElement: <BrokenPage />,
    children: [
      { path: '/join', element: later(<JoinPage />) },
      {
        element: <Door />,
        children: [
          { path: '/', element: later(<CallsPage />) },
          { path: '/calls/new', element: later(<NewCallPage />) },
          {
            path: '/calls/:callId',
            element: <CallFrame />,
            children: [
              { index: true, element: later(<WorkbenchPage />) },
              { path: 'call', element: later(<CallPage />) },
              { path: 'circuit', element: later(<CircuitPage />) },
              { path: 'what-if', element: later(<WhatIfPage />) },
              { path: 'timing', element: later(<TimingPage />) },
              { path: 'ratings', element: later(<RatingsPage />) },
              { path: 'make-safe', element: later(<SafePage />) },
              { path: 'repair', element: later(<RepairPage />) },
              { path: 'repair/heater', element: later(<HeaterPage />) },
              { path: 'prove', element: later(<ProvePage />) },
              { path: 'hand-over', element: later(<HandOverPage />) },
              { path: 'prove/load-tests', element: later(<LoadTestsPage />) },
            ],
          },
          { path: '/board', element: later(<BoardPage />) },
          { path: '/equipment', element: later(<EquipmentListPage />) },
          { path: '/equipment/:equipmentId', element: later(<EquipmentPage />) },
          { path: '/sites/:siteId', element: later(<SitePage />) },
          { path: '/calculators', element: later(<CalculatorsPage />) },
          { path: '/tables', element: later(<TablesPage />) },
          { path: '/quick-read', element: later(<QuickReadPage />) },
          { path: '/sites/:siteId/feeds', element: later(<FeedsPage />) },
          { path: '/sites/:siteId/panels', element: later(<PanelPage />) },
          { path: '/help', element: later(<HelpPage />) },
          { path: '/you', element: later(<AccountPage />) },
          { path: '/people', element: later(<PeoplePage />) },
          { path: '/log', element: later(<LogPage />) },
          { path: '*', element: later(<NowherePage />) },
        ],
      },
    ],
  },
])

const KEPT_FOR_MS = 14 * 24 * 3_600_000

const client = new QueryClient({
  defaultOptions: {
    // Without a signal a request is made all the same: it fails at once, and what was kept stays on the page.
    queries: { retry: 1, refetchOnWindowFocus: false, networkMode: 'always', gcTime: KEPT_FOR_MS },
    mutations: { networkMode: 'always' },
  },
})

applyColours()
sendBeforeLeaving(client)
holdStillWhilePressed()

const root = document.getElementById('root')
if (root)
  createRoot(root).render(
    <StrictMode>
      {/* A change is never kept with the pages: come back without a sender, it would hold up all that follow it. */}
      <PersistQueryClientProvider
        client={client}
        persistOptions={{ persister, maxAge: KEPT_FOR_MS, dehydrateOptions: { shouldDehydrateQuery: isKept, shouldDehydrateMutation: () => false } }}
        onSuccess={() => client.invalidateQueries({ predicate: isFromTheFuture, refetchType: 'none' })}
      >
        <RouterProvider router={router} />
      </PersistQueryClientProvider>
    </StrictMode>,
  )
