import { infiniteQueryOptions, keepPreviousData, queryOptions } from '@tanstack/react-query'

import { answered, api } from './client'
import type { paths } from './schema.gen'

/** Who is signed in here. */
export const door = queryOptions({ queryKey: ['door'], queryFn: () => answered(api.GET('/api/session')), staleTime: 60_000 })

export const people = queryOptions({ queryKey: ['people'], queryFn: () => answered(api.GET('/api/people')) })

/** The sites that hold all words of a search, as many as a pick-list shows. */
export const sites = (search = '') =>
  queryOptions({ queryKey: ['sites', search], queryFn: () => answered(api.GET('/api/sites', { params: { query: { search, most: 100 } } })) })

export const log = infiniteQueryOptions({
  queryKey: ['log'],
  queryFn: ({ pageParam }) => answered(api.GET('/api/audit', { params: { query: { after: pageParam } } })),
  initialPageParam: null as number | null,
  getNextPageParam: (last) => last.next,
})

export const readyMade = queryOptions({
  queryKey: ['ready-made'],
  queryFn: () => answered(api.GET('/api/ready-made-circuits')),
  staleTime: Infinity,
})

export const partKinds = queryOptions({
  queryKey: ['part-kinds'],
  queryFn: () => answered(api.GET('/api/part-kinds')),
  staleTime: Infinity,
})

/** Which calls to list; all where nothing is said. */
export type Wanted = Omit<NonNullable<paths['/api/calls']['get']['parameters']['query']>, 'after' | 'most'>

export const calls = (wanted: Wanted = {}) =>
  infiniteQueryOptions({
    queryKey: ['calls', wanted],
    queryFn: ({ pageParam }) => answered(api.GET('/api/calls', { params: { query: { ...wanted, after: pageParam } } })),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
  })

export const signs = queryOptions({ queryKey: ['signs'], queryFn: () => answered(api.GET('/api/signs')), staleTime: Infinity })

export const systems = queryOptions({ queryKey: ['systems'], queryFn: () => answered(api.GET('/api/systems')), staleTime: Infinity })

/** A call in which something was read, to be shown around in. */
export const tourCall = queryOptions({
  queryKey: ['tour'],
  queryFn: async () => {
    const page = await answered(api.GET('/api/calls', { params: { query: { most: 50 } } }))
    return page.calls.find((one) => one.readings > 1) ?? null
  },
})

export const complaints = queryOptions({ queryKey: ['complaints'], queryFn: () => answered(api.GET('/api/complaints')), staleTime: Infinity })

export const site = (siteId: string) =>
  queryOptions({ queryKey: ['site', siteId], queryFn: () => answered(api.GET('/api/sites/{site_id}', { params: { path: { site_id: siteId } } })) })

export const equipment = (equipmentId: string) =>
  queryOptions({
    queryKey: ['equipment', equipmentId],
    queryFn: () => answered(api.GET('/api/equipment/{equipment_id}', { params: { path: { equipment_id: equipmentId } } })),
  })

export const feeds = (siteId: string) =>
  queryOptions({
    queryKey: ['feeds', siteId],
    queryFn: () => answered(api.GET('/api/sites/{site_id}/feeds', { params: { path: { site_id: siteId } } })),
  })

/** One suspect and every reading's word on it; its probability is part of the key, so that new evidence asks again. */
export const suspect = (callId: string, key: string, stands: number) =>
  queryOptions({
    queryKey: ['suspect', callId, key, stands],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/suspects/{key}', { params: { path: { call_id: callId, key } } })),
  })

/** How the suspects fared; what stands is part of the key, so that another reading asks again. */
export const course = (callId: string, stands: string) =>
  queryOptions({
    queryKey: ['course', callId, stands],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/course', { params: { path: { call_id: callId } } })),
    staleTime: Infinity,
  })

export const ratings = (callId: string) =>
  queryOptions({
    queryKey: ['ratings', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/ratings', { params: { path: { call_id: callId } } })),
  })

export const benchTools = queryOptions({ queryKey: ['bench'], queryFn: () => answered(api.GET('/api/bench')), staleTime: Infinity })

export const tables = queryOptions({ queryKey: ['tables'], queryFn: () => answered(api.GET('/api/tables')), staleTime: Infinity })

/** Another text as soon as anything of a call was changed, by whomever. */
export const stamp = (callId: string) =>
  queryOptions({
    queryKey: ['stamp', callId],
    queryFn: async () => (await answered(api.GET('/api/calls/{call_id}/stamp', { params: { path: { call_id: callId } } }))).stamp,
    refetchInterval: 4000,
  })

export const workbench = (callId: string) =>
  queryOptions({
    queryKey: ['workbench', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}', { params: { path: { call_id: callId } } })),
    // A second answer that did not come is asked for again.
    refetchInterval: ({ state }) => (state.data?.diagnosis.planning ? 3000 : false),
  })

/** What is done about what was found in a call. */
export const repair = (callId: string) =>
  queryOptions({
    queryKey: ['repair', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/repair', { params: { path: { call_id: callId } } })),
  })

/** The load tests of a call; asked again and again while one is under way. */
export const loadTests = (callId: string) =>
  queryOptions({
    queryKey: ['load-tests', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/load-tests', { params: { path: { call_id: callId } } })),
    refetchInterval: ({ state }) => (state.data?.tests.some((one) => one.state === 'running' || one.state === 'stopping') ? 700 : false),
  })

/** A window of a trace; how far it has come is part of the key, so that a growing one is asked for again. */
export const chartData = (callId: string, testId: string, window: { from: number; to: number } | null, progress: number) =>
  queryOptions({
    queryKey: ['chart', callId, testId, window, progress],
    queryFn: () =>
      answered(
        api.GET('/api/calls/{call_id}/load-tests/{test_id}/chart', {
          params: { path: { call_id: callId, test_id: testId }, query: window ? { from_s: window.from, to_s: window.to } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  })

export const photos = (callId: string) =>
  queryOptions({
    queryKey: ['photos', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/photos', { params: { path: { call_id: callId } } })),
  })

/** What is due over all calls. */
export const board = queryOptions({ queryKey: ['board'], queryFn: () => answered(api.GET('/api/board')) })

/** A piece of equipment over its visits. */
export const trends = (equipmentId: string) =>
  queryOptions({
    queryKey: ['trends', equipmentId],
    queryFn: () => answered(api.GET('/api/equipment/{equipment_id}/trends', { params: { path: { equipment_id: equipmentId } } })),
  })
