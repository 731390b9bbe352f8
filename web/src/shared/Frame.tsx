import { useState } from 'react'
import { Link, Outlet } from 'react-router'

import { chooseColours, useColours } from './colours'

/** Header and page; a page puts its own words into the header's second half through FrameTitle. */
export function Frame() {
  const [slot, setSlot] = useState<HTMLElement | null>(null)
  const colours = useColours()
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
