import { queryOptions } from '@tanstack/react-query'

import { answered, api } from './client'

export const technicians = queryOptions({
  queryKey: ['technicians'],
  queryFn: () => answered(api.GET('/api/technicians')),
})

export const sites = queryOptions({ queryKey: ['sites'], queryFn: () => answered(api.GET('/api/sites')) })

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

export const calls = queryOptions({ queryKey: ['calls'], queryFn: () => answered(api.GET('/api/calls')) })

export const workbench = (callId: string) =>
  queryOptions({
    queryKey: ['workbench', callId],
    queryFn: () => answered(api.GET('/api/calls/{call_id}', { params: { path: { call_id: callId } } })),
  })
