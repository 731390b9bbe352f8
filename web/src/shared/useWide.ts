import { useSyncExternalStore } from 'react'

const query = '(min-width: 900px)'

/** Whether strip and answer stand side by side. */
export const useWide = () =>
  useSyncExternalStore(
    (changed) => {
      const media = window.matchMedia(query)
      media.addEventListener('change', changed)
      return () => media.removeEventListener('change', changed)
    },
    () => window.matchMedia(query).matches,
  )
