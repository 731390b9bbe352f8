import type { QueryClient, QueryKey } from '@tanstack/react-query'

/** Holds what a change was answered with. What was asked for while it was under way may not know it yet, and is dropped. */
export async function hold<Data>(client: QueryClient, queryKey: QueryKey, data: Data) {
  await client.cancelQueries({ queryKey })
  client.setQueryData(queryKey, data)
}

/** Says when nothing is on its way to be kept any more. */
export const whenKept = (client: QueryClient) =>
  new Promise<void>((go) => {
    const look = () => {
      if (client.isMutating()) return
      stop()
      go()
    }
    const stop = client.getMutationCache().subscribe(look)
    look()
  })
