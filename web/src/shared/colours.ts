import { useSyncExternalStore } from 'react'

export type Colours = 'light' | 'dark'

const KEY = 'zesty-colours'
const listeners = new Set<() => void>()
const prefers = window.matchMedia('(prefers-color-scheme: dark)')

/** What was chosen here before; else what the device asks for. */
function present(): Colours {
  const kept = localStorage.getItem(KEY)
  if (kept === 'light' || kept === 'dark') return kept
  return prefers.matches ? 'dark' : 'light'
}

/** Puts the colours on the page; the style sheet does the rest. */
export function applyColours() {
  document.documentElement.dataset.theme = present()
}

export function chooseColours(colours: Colours) {
  localStorage.setItem(KEY, colours)
  applyColours()
  listeners.forEach((told) => told())
}

function subscribe(told: () => void) {
  const changed = () => {
    applyColours()
    told()
  }
  listeners.add(told)
  prefers.addEventListener('change', changed)
  return () => {
    listeners.delete(told)
    prefers.removeEventListener('change', changed)
  }
}

/** The colours of the page, light or dark. */
export const useColours = () => useSyncExternalStore(subscribe, present)
