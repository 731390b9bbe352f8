import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, Outlet } from 'react-router'

import { door } from '../api/queries'
import { chooseColours, useColours } from './colours'

const initialsOf = (name: string) =>
  name
    .split(/\s+/)
    .map((word) => word[0] ?? '')
    .slice(0, 2)
    .join('')
    .toUpperCase()

/** Header and page; a page puts its own words into the header's second half through FrameTitle. */
export function Frame() {
  const [slot, setSlot] = useState<HTMLElement | null>(null)
  const colours = useColours()
  const person = useQuery(door).data?.person
  const other = colours === 'dark' ? 'light' : 'dark'
  return (
    <>
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
          <Link to="/you" className="you" title={person.name}>
            <span aria-hidden="true">{initialsOf(person.name)}</span>
            <span className="visually-hidden">You: {person.name}</span>
          </Link>
        ) : null}
        <button type="button" className="theme-button" aria-label={`Use ${other} colors`} onClick={() => chooseColours(other)}>
          <span aria-hidden="true">{other === 'dark' ? '☾' : '☀'}</span>
        </button>
      </header>
      <main>
        <Outlet context={slot} />
      </main>
    </>
  )
}
