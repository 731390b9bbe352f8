import { useIsFetching, useIsMutating, useIsRestoring, useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, Outlet, ScrollRestoration, useLocation } from 'react-router'

import { door } from '../api/queries'
import { chooseColours, useColours } from './colours'
import { Icon } from './icons'

const PLACES = [
  { to: '/', name: 'Calls', icon: 'calls' },
  { to: '/equipment', name: 'Equipment', icon: 'equipment' },
  { to: '/calculators', name: 'Calculators', icon: 'calculators' },
  { to: '/tables', name: 'Tables', icon: 'tables' },
  { to: '/you', name: 'You', icon: 'people' },
] as const
/** Pages that belong to a place without lying below it. */
const BELONGS: Record<string, string> = { sites: '/equipment', 'quick-read': '/calculators', people: '/you', log: '/you', help: '/you', calls: '/', board: '/' }

/** What is asked for again and again while a page is open. */
const WATCHED = ['stamp', 'plan']

const placeOf = (path: string) => {
  const first = path.split('/')[1] ?? ''
  return BELONGS[first] ?? `/${first}`
}

/** What is always there: the places to go, under the thumb or at the side, and a head for the page's own words. */
export function Frame() {
  const [slot, setSlot] = useState<HTMLElement | null>(null)
  const colours = useColours()
  const person = useQuery(door).data?.person
  const here = placeOf(useLocation().pathname)
  // For whoever drives the page by a program: whether anything is being fetched or saved.
  const going = useIsFetching({ predicate: ({ queryKey }) => !WATCHED.includes(String(queryKey[0])) }) + useIsMutating()
  const isBusy = useIsRestoring() || going > 0
  useEffect(() => void (document.documentElement.dataset.busy = String(isBusy)), [isBusy])
  const other = colours === 'dark' ? 'light' : 'dark'
  return (
    <div className={person ? 'frame' : 'frame alone'}>
      {person ? (
        <nav className="dock" aria-label="Main">
          {PLACES.map(({ to, name, icon }) => (
            <Link key={to} to={to} aria-current={to === here ? 'page' : undefined} title={to === '/you' ? person.name : undefined}>
              <Icon name={icon} />
              <span>{name}</span>
            </Link>
          ))}
        </nav>
      ) : null}
      <div className="frame-body">
        <header className="frame-head">
          <Link to="/" className="brand" aria-label="Zesty Copper: to the calls">
            <svg viewBox="0 0 32 32" width="26" height="26" aria-hidden="true">
              <path d="M10 3v11M10 22v7M22 3v26" stroke="#c9743a" strokeWidth="5" strokeLinecap="round" />
              <circle cx="10" cy="18" r="5" fill="#d5e22f" />
            </svg>
            <span className="brand-words">Zesty Copper</span>
          </Link>
          <div className="frame-title" ref={setSlot} />
          {person ? (
            <Link to="/help" className="theme-button" aria-label="Help">
              <span aria-hidden="true">?</span>
            </Link>
          ) : null}
          <button type="button" className="theme-button wide-only" aria-label={`Use ${other} colors`} onClick={() => chooseColours(other)}>
            <span aria-hidden="true">{other === 'dark' ? '☾' : '☀'}</span>
          </button>
        </header>
        <main>
          <Outlet context={slot} />
        </main>
        <ScrollRestoration />
      </div>
    </div>
  )
}
