import { lazy, Suspense } from 'react'

import type { PickFieldProps } from './fields'

const Pick = lazy(async () => {
  const [{ Themed }, { PickField }] = await Promise.all([import('./Themed'), import('./fields')])
  return {
    default: (props: PickFieldProps<string>) => (
      <Themed>
        <PickField {...props} />
      </Themed>
    ),
  }
})

/** One of a few, on a page that paints before the component library is there. */
export const LatePick = (props: PickFieldProps<string>) => (
  <Suspense fallback={<span className="labelled">{props.label}</span>}>
    <Pick {...props} />
  </Suspense>
)
