import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import './styles.css'

import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { lazy, StrictMode, Suspense } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'

import { Door } from './features/door/Door'
import { applyColours } from './shared/colours'
import { Frame } from './shared/Frame'
import { Loading } from './shared/states'

const CallsPage = lazy(() => import('./features/calls/CallsPage'))
const NewCallPage = lazy(() => import('./features/calls/NewCallPage'))
const WorkbenchPage = lazy(() => import('./features/workbench/WorkbenchPage'))
const QuickReadPage = lazy(() => import('./features/quickRead/QuickReadPage'))
const WhatIfPage = lazy(() => import('./features/whatIf/WhatIfPage'))
const FeedsPage = lazy(() => import('./features/feeds/FeedsPage'))
const CircuitPage = lazy(() => import('./features/circuit/CircuitPage'))
const RatingsPage = lazy(() => import('./features/ratings/RatingsPage'))
const BenchPage = lazy(() => import('./features/bench/BenchPage'))
const TablesPage = lazy(() => import('./features/bench/TablesPage'))
const JoinPage = lazy(() => import('./features/door/JoinPage'))
const AccountPage = lazy(() => import('./features/door/AccountPage'))
const PeoplePage = lazy(() => import('./features/people/PeoplePage'))
const LogPage = lazy(() => import('./features/people/LogPage'))
const NowherePage = lazy(() => import('./shared/NowherePage'))

const later = (page: React.ReactNode) => <Suspense fallback={<Loading what="the page" />}>{page}</Suspense>

const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: '/join', element: later(<JoinPage />) },
      {
        element: <Door />,
        children: [
          { path: '/', element: later(<CallsPage />) },
          { path: '/calls/new', element: later(<NewCallPage />) },
          { path: '/calls/:callId', element: later(<WorkbenchPage />) },
          { path: '/calls/:callId/circuit', element: later(<CircuitPage />) },
          { path: '/calls/:callId/what-if', element: later(<WhatIfPage />) },
          { path: '/calls/:callId/ratings', element: later(<RatingsPage />) },
          { path: '/bench', element: later(<BenchPage />) },
          { path: '/tables', element: later(<TablesPage />) },
          { path: '/quick-read', element: later(<QuickReadPage />) },
          { path: '/sites/:siteId/feeds', element: later(<FeedsPage />) },
          { path: '/you', element: later(<AccountPage />) },
          { path: '/people', element: later(<PeoplePage />) },
          { path: '/log', element: later(<LogPage />) },
          { path: '*', element: later(<NowherePage />) },
        ],
      },
    ],
  },
])

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } })

applyColours()

const root = document.getElementById('root')
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  )
