import { useQuery, useQueryClient } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useState } from 'react'
import { Outlet, useOutletContext } from 'react-router'

import { isSignedOut } from '../../api/client'
import { door } from '../../api/queries'
import type { Person } from '../../api/schema.gen'
import { Signal } from '../../offline/Signal'
import { PersonContext } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'

const SignIn = lazy(() => import('./SignIn'))

/** Shows pages to who is signed in. Where that ends meanwhile the page stays as it is, behind the question who is there. */
export function Door() {
  const slot = useOutletContext<HTMLElement | null>()
  const { data, error, refetch } = useQuery(door)
  const [last, setLast] = useState<Person | null>(null)
  useSignedOut()
  const person = data?.person ?? null
  if (person && person !== last) setLast(person)
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the door" />
  const shown = person ?? last
  return (
    <>
      {shown ? (
        <PersonContext value={shown}>
          <Signal />
          <Outlet context={slot} />
        </PersonContext>
      ) : null}
      {person ? null : (
        <div className={last ? 'door over-page' : 'door'}>
          <Suspense fallback={<Loading what="the door" />}>
            <SignIn door={data} before={last} />
          </Suspense>
        </div>
      )}
    </>
  )
}

/** Looks who is signed in as soon as any request was refused because nobody is. */
function useSignedOut() {
  const client = useQueryClient()
  useEffect(() => {
    const watch = (event: { type: string; query?: { state: { error: unknown } }; mutation?: { state: { error: unknown } } }) => {
      if (event.type === 'updated' && isSignedOut(event.query?.state.error ?? event.mutation?.state.error))
        void client.invalidateQueries({ queryKey: door.queryKey })
    }
    const queries = client.getQueryCache().subscribe(watch)
    const mutations = client.getMutationCache().subscribe(watch)
    return () => {
      queries()
      mutations()
    }
  }, [client])
}
