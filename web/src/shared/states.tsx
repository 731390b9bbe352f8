import type { ReactNode } from 'react'

import { RequestFailed } from '../api/client'

export function Loading({ what }: { what: string }) {
  return (
    <p className="page-state" role="status">
      Fetching {what} …
    </p>
  )
}

export function Failed({ error, retry, children }: { error: Error; retry: () => void; children?: ReactNode }) {
  const message = error instanceof RequestFailed ? error.problem.message : 'Something went wrong on this page.'
  return (
    <div className="page-state" role="alert">
      <p>{message}</p>
      <button type="button" className="plain-button" onClick={retry}>
        Try again
      </button>
      {children}
    </div>
  )
}
