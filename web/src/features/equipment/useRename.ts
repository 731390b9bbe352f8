import { type QueryKey, useMutation, useQueryClient } from '@tanstack/react-query'

/** A name, and of a site its address. */
export type NewNames = { name: string; address?: string }

/** Renames something on file; every list that shows its name is fetched anew. */
export function useRename<Told>(queryKey: QueryKey, send: (names: NewNames) => Promise<Told>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: send,
    onSuccess: (next) => {
      client.setQueryData(queryKey, next)
      void client.invalidateQueries({ queryKey: ['sites'] })
      void client.invalidateQueries({ queryKey: ['calls'] })
    },
  })
}
